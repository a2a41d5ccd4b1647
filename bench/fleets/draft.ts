import { type Plan, readPlan } from "../../core/plan/index.ts";

// Documents are written here as a person would write them, and read by the schema at the end.
type Loose = Record<string, unknown>;

interface DraftDevice extends Loose {
  id: string;
  interfaces: Loose[];
  routes: Loose[];
  watches: Loose[];
}

/** One end of a link: the interface, its address, and the address at the other end. */
export interface End {
  readonly name: string;
  readonly own: string;
  readonly far: string;
}

/** A generated plan in the making: transfer networks, LANs, loopbacks and hosts get their addresses by number. */
export class Draft {
  private readonly devices = new Map<string, DraftDevice>();
  private readonly links: Loose[] = [];
  private readonly flows: Loose[] = [];
  private transfers = 0;

  constructor(
    private readonly name: string,
    private readonly family: 4 | 6 = 4,
  ) {}

  device(id: string, role: string, more: Loose = {}): void {
    this.devices.set(id, { id, role, site: id, interfaces: [], routes: [], watches: [], ...more });
  }

  /** A transfer network between two devices; the two ends as each device sees them. */
  join(a: string, b: string, medium = "cable", more: Loose = {}): [End, End] {
    const n = this.transfers++;
    const name = `t${n}`;
    const [one, two] =
      this.family === 4
        ? [1, 2].map((end) => `10.${128 + (n >> 14)}.${(n >> 6) & 255}.${(n & 63) * 4 + end}`)
        : [1, 2].map((end) => `2001:db8:f000:${n.toString(16)}::${end}`);
    const length = this.family === 4 ? 30 : 126;
    this.port(a, { name, addresses: [`${one}/${length}`], ...more });
    this.port(b, { name, addresses: [`${two}/${length}`], ...more });
    this.links.push({ id: name, medium, ends: [`${a}/${name}`, `${b}/${name}`] });
    return [
      { name, own: one, far: two },
      { name, own: two, far: one },
    ];
  }

  port(device: string, port: Loose): void {
    this.at(device).interfaces.push(port);
  }

  route(device: string, ...routes: Loose[]): void {
    this.at(device).routes.push(...routes);
  }

  watch(device: string, ...watches: Loose[]): void {
    this.at(device).watches.push(...watches);
  }

  /** Puts an interface into a zone. */
  zone(device: string, name: string, zone: string): void {
    for (const port of this.at(device).interfaces) if (port.name === name) port.zone = zone;
  }

  /** Adds to a list of the device, such as its policy tables. */
  extend(device: string, list: string, item: Loose): void {
    const at = this.at(device);
    at[list] = [...((at[list] as Loose[] | undefined) ?? []), item];
  }

  /** A LAN behind a router, number `n` of the plan, with a host on it; the LAN's prefix. */
  lan(router: string, n: number, more: Loose = {}): string {
    const host = `host-${n}`;
    const [net, first, tenth, length, any] =
      this.family === 4
        ? [lanNet(n), `${lanNet(n)}.1`, `${lanNet(n)}.10`, 24, "0.0.0.0/0"]
        : [lanNet6(n), `${lanNet6(n)}::1`, `${lanNet6(n)}::10`, 64, "::/0"];
    this.port(router, { name: "lan", addresses: [`${first}/${length}`], ...more });
    this.device(host, "host");
    this.port(host, { name: "eth0", addresses: [`${tenth}/${length}`] });
    this.route(host, { to: any, via: first });
    this.links.push({ id: `lan-${n}`, medium: "switch", ends: [`${router}/lan`, `${host}/eth0`] });
    return this.family === 4 ? `${net}.0/24` : `${net}::/64`;
  }

  /** A loopback with the plan's `n`th address. */
  loopback(device: string, n: number): string {
    const address =
      this.family === 4 ? `10.255.${n >> 8}.${n & 255}` : `2001:db8:ffff::${(n + 1).toString(16)}`;
    this.port(device, {
      name: "lo",
      kind: "loopback",
      addresses: [`${address}/${this.family === 4 ? 32 : 128}`],
    });
    return address;
  }

  flow(from: number, to: number, more: Loose = {}): void {
    this.flows.push({ id: `flow-${this.flows.length}`, from: `host-${from}`, to: `host-${to}`, ...more });
  }

  plan(more: Loose = {}): Plan {
    const reading = readPlan({
      ironFork: 1,
      name: this.name,
      devices: [...this.devices.values()],
      links: this.links,
      flows: this.flows,
      ...more,
    });
    if (reading.ok) return reading.plan;
    const [first] = reading.errors;
    throw new Error(`${this.name}: ${first.path}: ${first.message}`);
  }

  private at(id: string): DraftDevice {
    const device = this.devices.get(id);
    if (!device) throw new Error(`the draft has no device ${id}`);
    return device;
  }
}

export function bfd(id: string, { name, far }: End): Loose {
  return { id, kind: "bfd", interface: name, peer: far, minTxMs: 300, minRxMs: 300, multiplier: 3 };
}

export function probe(id: string, target: string, more: Loose = {}): Loose {
  return {
    id,
    kind: "probe",
    target,
    intervalMs: 1000,
    timeoutMs: 500,
    failAfter: 3,
    recoverAfter: 2,
    ...more,
  };
}

function lanNet(n: number): string {
  return `10.${n >> 8}.${n & 255}`;
}

function lanNet6(n: number): string {
  return `2001:db8:0:${(n + 1).toString(16)}`;
}
