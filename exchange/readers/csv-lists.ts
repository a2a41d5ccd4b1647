import {
  formatAddress,
  formatPrefix,
  hostPrefix,
  lengthOfMask,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../../core/address/index.ts";
import type { Collector } from "../facts/index.ts";
import type { InputFile, Reader, ReaderOptions } from "./reader.ts";
import { takeRouteFields } from "./route-fields.ts";

/** Headings of lists, with the role of the column below. */
const headings: Readonly<Record<string, string>> = {
  device: "device",
  node: "device",
  host: "device",
  hostname: "device",
  router: "device",
  interface: "interface",
  port: "interface",
  name: "interface",
  address: "address",
  addresses: "address",
  ip: "address",
  mask: "mask",
  netmask: "mask",
  kind: "kind",
  vrf: "vrf",
  zone: "zone",
  hardware: "hardware",
  mac: "hardware",
  destination: "to",
  prefix: "to",
  network: "to",
  to: "to",
  via: "via",
  gateway: "via",
  "next hop": "via",
  "next-hop": "via",
  nexthop: "via",
  out: "out",
  distance: "distance",
  metric: "metric",
  source: "source",
  protocol: "source",
  table: "table",
  active: "active",
  discard: "discard",
  "a device": "a-device",
  "a interface": "a-interface",
  "a port": "a-interface",
  "b device": "b-device",
  "b interface": "b-interface",
  "b port": "b-interface",
  "device a": "a-device",
  "interface a": "a-interface",
  "port a": "a-interface",
  "device b": "b-device",
  "interface b": "b-interface",
  "port b": "b-interface",
};

/** Splits a line of a list; quotes protect separators, and doubled quotes are literal (RFC 4180). */
function cellsOf(line: string, separator: string): string[] {
  const cells: string[] = [];
  let cell = "";
  let quoted = false;
  let blank = true;
  for (let i = 0; i < line.length; i++) {
    const c = line[i];
    if (quoted) {
      if (c !== '"') cell += c;
      else if (line[i + 1] === '"') cell += line[++i];
      else quoted = false;
    } else if (c === '"' && blank) {
      quoted = true;
      blank = false;
      cell = "";
    } else if (c === separator) {
      cells.push(cell.trim());
      cell = "";
      blank = true;
    } else {
      blank &&= c.trim() === "";
      cell += c;
    }
  }
  return [...cells, cell.trim()];
}

function separatorOf(line: string): string | null {
  return ["\t", ";", ","].find((separator) => line.includes(separator)) ?? null;
}

/** The columns of a list by its head; null where the line is none. */
function columnsOf(line: string, separator: string): string[] | null {
  const names = cellsOf(line, separator).map(
    (cell) => headings[cell.toLowerCase().replace(/[_\s]+/g, " ")] ?? "",
  );
  return names.filter((name) => name !== "").length >= 2 ? names : null;
}

/** The columns that a text's first line heads; null if it is no heading. */
function headOf(text: string): string[] | null {
  const [first = ""] = text.trimStart().split(/\r?\n/, 1);
  const separator = separatorOf(first);
  return separator === null ? null : columnsOf(first, separator);
}

export interface ListRow {
  readonly columns: readonly string[];
  readonly at: { file: string; line: number; text: string };
  readonly cell: (name: string) => string;
}

function takeInterface({ at, cell }: ListRow, into: Collector) {
  const name = cell("interface");
  if (name === "") return into.fate(at, "not-understood", "no interface name");
  const wrong: string[] = [];
  const addresses = cell("address")
    .split(/[\s|]+/)
    .filter(Boolean)
    .flatMap((text) => {
      const read = parseInterfaceAddress(text);
      if (read) return [`${formatAddress(read.address)}/${read.length}`];
      const [address, length] = [parseAddress(text), lengthOfMask(cell("mask"))];
      if (address && length !== null) return [`${formatAddress(address)}/${length}`];
      wrong.push(text);
      return [];
    });
  const kinds = ["ethernet", "serial", "tunnel", "loopback"] as const;
  into.interface(name, {
    addresses,
    kind: kinds.find((kind) => kind === cell("kind").toLowerCase()) ?? null,
    vrf: cell("vrf") || null,
    zone: cell("zone") || null,
    hardware: cell("hardware").toLowerCase() || null,
  });
  if (wrong.length > 0)
    into.fate(
      at,
      "doubtful",
      `the interface ${name}; ${wrong.join(", ")} is not an address with a prefix length`,
    );
  else
    into.fate(
      at,
      "taken",
      `the interface ${name}${addresses.length > 0 ? ` with ${addresses.join(", ")}` : ""}`,
    );
}

function takeListedRoute({ at, cell }: ListRow, into: Collector, options: ReaderOptions) {
  const to = parsePrefix(cell("to")) ?? maskedPrefix(cell("to"), cell("mask"));
  if (!to && cell("to") !== "default")
    return into.fate(at, "not-understood", `"${cell("to")}" is not a destination`);
  takeRouteFields(
    {
      to: to ? formatPrefix(to) : cell("via").includes(":") ? "::/0" : "0.0.0.0/0",
      via: cell("via"),
      out: cell("out") || cell("interface"),
      vrf: cell("vrf"),
      table: cell("table"),
      distance: cell("distance"),
      metric: cell("metric"),
      words: [cell("source"), cell("discard")].filter(Boolean),
      active: cell("active"),
    },
    at,
    into,
    options,
  );
}

function maskedPrefix(text: string, mask: string) {
  const address = parseAddress(text);
  const length = lengthOfMask(mask);
  if (!address) return null;
  return length === null ? hostPrefix(address) : parsePrefix(`${text}/${length}`);
}

/** Lists with a head, parted by commas, semicolons or tabs: interfaces, routes, cables. */
export const csvLists: Reader & {
  isOfMany(text: string): boolean;
  readRow(row: ListRow, into: Collector, options: ReaderOptions): void;
} = {
  kind: "list",
  recognises({ text }) {
    const columns = headOf(text);
    if (!columns) return 0;
    // A table of one device with other headings is read like any text.
    return columns.every((column) => column !== "") || csvLists.isOfMany(text) ? 0.85 : 0;
  },
  /** Whether its lines name their devices themselves. */
  isOfMany(text) {
    const columns = headOf(text);
    return columns !== null && (columns.includes("device") || columns.includes("a-device"));
  },
  read(file, into, options) {
    for (const row of rowsOf(file, (at, detail) => into.fate(at, "known", detail))) {
      csvLists.readRow(row, into, options);
    }
  },
  readRow(row, into, options) {
    if (row.columns.includes("to")) takeListedRoute(row, into, options);
    else takeInterface(row, into);
  },
};

/** The lines of a list with their cells by what their column is called. */
export function rowsOf(file: InputFile, onHead: (at: ListRow["at"], detail: string) => void) {
  const lines = file.text.split(/\r?\n/);
  const rows: ListRow[] = [];
  let columns: string[] | null = null;
  let separator = ",";
  for (const [i, raw] of lines.entries()) {
    if (raw.trim() === "") continue;
    const at = { file: file.name, line: i + 1, text: raw };
    if (columns === null) {
      separator = separatorOf(raw) ?? ",";
      columns = columnsOf(raw, separator) ?? [];
      onHead(at, "header of the list");
      continue;
    }
    const cells = cellsOf(raw, separator);
    const places = columns;
    rows.push({ at, columns: places, cell: (name) => cells[places.indexOf(name)] ?? "" });
  }
  return rows;
}
