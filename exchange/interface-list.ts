import { lengthOfMask, parseAddress, parseInterfaceAddress } from "../core/address/index.ts";
import {
  type Change,
  type Edit,
  errorsOfIssues,
  type Interface,
  interfaceSchema,
  type Plan,
  roles,
} from "../core/plan/index.ts";

/** One line of a pasted list: its meaning or its error. */
export interface ListedLine {
  /** From 1. */
  line: number;
  text: string;
  ok: boolean;
  /** The meaning, or the error. */
  says: string;
}

export interface InterfaceList {
  lines: ListedLine[];
  /** The edit of the valid lines; null if none is valid, or if any line has an error. */
  edit: Edit | null;
  devices: number;
  interfaces: number;
}

const kinds = ["ethernet", "serial", "tunnel", "loopback", "management"];

/**
 * Reads a list of interfaces, one a line, columns parted by tabs, commas or semicolons: device, interface, then
 * in any order addresses with their length ("172.20.1.1/24", or an address followed by a mask), a kind, a role.
 * A device that the plan does not have yet is added, as a router unless a role is given. A line of headings and
 * empty lines are passed over. `device` is whose list it is, where lines do not name one.
 */
export function readInterfaceList(text: string, plan: Plan, device: string | null): InterfaceList {
  const lines: ListedLine[] = [];
  const list = new Listed(plan);
  for (const [n, raw] of text.split(/\r?\n/).entries()) {
    if (raw.trim() === "" || raw.trim().startsWith("#")) continue;
    const cells = cellsOf(raw);
    if (lines.length === 0 && isHeading(cells)) continue;
    const reading = readLine(cells, device);
    const told = reading.ok ? list.take(reading) : reading;
    lines.push({ line: n + 1, text: raw.trim(), ...told });
  }
  const changes = list.changes();
  const interfaces = list.count();
  const sound = lines.every((line) => line.ok) && changes.length > 0;
  return {
    lines,
    edit: sound ? { label: `Add ${interfaces} interfaces from a list`, changes } : null,
    devices: list.fresh.size,
    interfaces,
  };
}

type LineResult = Pick<ListedLine, "ok" | "says">;

/** What a list adds to a plan so far. */
class Listed {
  /** Devices that the plan does not have. */
  readonly fresh = new Map<string, { role: string; ports: Map<string, Interface> }>();
  private readonly known: ReadonlyMap<string, Map<string, Interface>>;
  private readonly added = new Map<string, Map<string, { before: Interface | null; after: Interface }>>();

  constructor(plan: Plan) {
    this.known = new Map(plan.devices.map((entry) => [entry.id, ownPorts(entry.interfaces)]));
  }

  /** Reads a line and describes its additions. */
  take({ id, role, port }: Extract<LineReading, { ok: true }>): LineResult {
    const twice: LineResult = {
      ok: false,
      says: `the interface ${port.name} of ${id} appears twice in the list`,
    };
    const ports = this.known.get(id);
    if (!ports) {
      const own = this.fresh.get(id) ?? { role: role ?? "router", ports: new Map<string, Interface>() };
      this.fresh.set(id, own);
      if (own.ports.has(port.name)) return twice;
      own.ports.set(port.name, port);
      return { ok: true, says: `new ${own.role} ${id}, ${portText(port)}` };
    }
    const list = this.added.get(id) ?? new Map();
    this.added.set(id, list);
    if (list.has(port.name)) return twice;
    const before = ports.get(port.name) ?? null;
    const missing = port.addresses.filter((address) => !before?.addresses.includes(address));
    if (before && missing.length === 0) return { ok: true, says: `${id} already has ${portText(port)}` };
    const after = before ? { ...before, addresses: [...before.addresses, ...missing] } : port;
    list.set(port.name, { before, after });
    const says = before ? `${id} ${port.name}: adds ${missing.join(", ")}` : `${id}: new ${portText(port)}`;
    return { ok: true, says };
  }

  count(): number {
    const sizes = [...this.fresh.values()].map((own) => own.ports.size);
    return [...sizes, ...[...this.added.values()].map((list) => list.size)].reduce((sum, n) => sum + n, 0);
  }

  changes(): Change[] {
    const devices = [...this.fresh].map(([id, { role, ports }]): Change => {
      const after = { id, role, interfaces: [...ports.values()] };
      return { in: "plan", collection: "devices", before: null, after };
    });
    const interfaces = [...this.added].flatMap(([device, list]) =>
      [...list.values()].map(
        ({ before, after }): Change => ({ in: "device", device, collection: "interfaces", before, after }),
      ),
    );
    return [...devices, ...interfaces];
  }
}

function ownPorts(interfaces: readonly Interface[]): Map<string, Interface> {
  return new Map(interfaces.map((port) => [port.name, port]));
}

function cellsOf(raw: string): string[] {
  const parted = raw.includes("\t") ? raw.split("\t") : raw.split(/[,;]/.test(raw) ? /[,;]/ : /\s+/);
  return parted.map((cell) => cell.trim().replace(/^"(.*)"$/, "$1"));
}

function isHeading(cells: readonly string[]): boolean {
  return (
    cells.some((cell) => /^(device|interface|name|address|addresses|port)$/i.test(cell)) &&
    !cells.some((cell) => parseInterfaceAddress(cell))
  );
}

type LineReading =
  | { ok: true; id: string; role: string | null; port: Interface }
  | { ok: false; says: string };

function readLine(cells: readonly string[], device: string | null): LineReading {
  const given = cells.filter((cell) => cell !== "");
  // On a device's own list the first cell is the interface, unless the second cannot be anything else.
  const named = device === null || (given.length > 1 && !isDetail(given[1]));
  const id = named ? given[0] : (device as string);
  const rest = named ? given.slice(1) : given;
  if (!/^[a-z0-9][a-z0-9-]{0,62}$/.test(id))
    return { ok: false, says: `"${id}" is not a device id: use lower-case letters, digits and hyphens` };
  const [name, ...details] = rest;
  if (name === undefined) return { ok: false, says: "interface missing: write its name after the device" };
  let role: string | null = null;
  let kind: string | undefined;
  const addresses: string[] = [];
  for (const [i, cell] of details.entries()) {
    if (kinds.includes(cell.toLowerCase())) kind = cell.toLowerCase();
    else if ((roles as readonly string[]).includes(cell.toLowerCase())) role = cell.toLowerCase();
    else if (isMask(cell) && i > 0 && parseAddress(details[i - 1])) continue;
    else {
      const parts = cell.split(/\s+/);
      for (const [n, part] of parts.entries()) {
        if (isMask(part) && n > 0 && parseAddress(parts[n - 1])) continue;
        const mask = parts[n + 1] ?? details[i + 1];
        const length =
          !part.includes("/") && parseAddress(part) && mask && isMask(mask) ? lengthOfMask(mask) : null;
        addresses.push(length === null ? part : `${part}/${length}`);
      }
    }
  }
  const parsed = interfaceSchema.safeParse(
    { name, ...(kind ? { kind } : {}), addresses },
    { reportInput: true },
  );
  if (parsed.success) return { ok: true, id, role, port: parsed.data };
  return { ok: false, says: errorsOfIssues(parsed.error.issues).map((error) => error.message)[0] };
}

function isDetail(cell: string): boolean {
  const first = cell.split(/\s+/)[0];
  return Boolean(
    parseInterfaceAddress(first) ||
      parseAddress(first) ||
      kinds.includes(cell.toLowerCase()) ||
      (first.includes("/") && /^[\d.:a-f]+\/\d+$/i.test(first)),
  );
}

/** A dotted mask such as 255.255.255.0: ones, then zeros. */
function isMask(cell: string): boolean {
  return lengthOfMask(cell) !== null;
}

function portText(port: Interface): string {
  return `${port.name}${port.kind ? ` (${port.kind})` : ""} ${port.addresses.join(", ") || "without an address"}`;
}
