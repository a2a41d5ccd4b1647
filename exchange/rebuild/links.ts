import {
  containsAddress,
  formatPrefix,
  isIpv6LinkLocal,
  type Prefix,
  parseAddress,
  parseInterfaceAddress,
  prefixOf,
} from "../../core/address/index.ts";
import type { Cable } from "../readings.ts";
import type { DeviceDocument, InterfaceDocument, ReadDevice } from "./device.ts";
import { idOf, interfaceNameOf, takeName } from "./names.ts";

/** An inferred link: its ends, the reason, and whether it is certain. */
export interface InferredLink {
  id: string;
  /** "device/interface" of each end. */
  ends: string[];
  because: string[];
  certain: boolean;
}

/** An interface and its attachments. */
interface Port {
  readonly device: number;
  readonly entry: InterfaceDocument;
  readonly end: string;
  readonly subnets: readonly Prefix[];
}

interface Join {
  readonly a: number;
  readonly b: number;
  readonly because: string;
  readonly certain: boolean;
}

/** Finds what joins the devices: each link with its reasons. An interface is an end of one link at most. */
export function inferLinks(devices: readonly ReadDevice[], cables: readonly Cable[]): InferredLink[] {
  return new Inference(devices, cables).run();
}

class Inference {
  private readonly ports: Port[] = [];
  private readonly byEnd = new Map<string, number>();
  private readonly byHardware = new Map<string, number[]>();
  /** Ids by device name: the id and the name of the facts. The first device with a name has it. */
  private readonly idByName = new Map<string, string>();
  private readonly joins: Join[] = [];
  private readonly parent: number[] = [];

  constructor(
    private readonly devices: readonly ReadDevice[],
    private readonly cables: readonly Cable[],
  ) {
    for (const [d, { document, collector }] of devices.entries()) {
      for (const name of [document.id, idOf(collector.facts.device)]) {
        if (!this.idByName.has(name)) this.idByName.set(name, document.id);
      }
      for (const entry of document.interfaces) {
        if (entry.kind === "loopback") continue;
        const end = `${document.id}/${entry.name}`;
        const { hardware } = entry;
        if (hardware)
          this.byHardware.set(hardware, [...(this.byHardware.get(hardware) ?? []), this.ports.length]);
        this.byEnd.set(end, this.ports.length);
        this.ports.push({ device: d, entry, end, subnets: subnetsOf(entry) });
      }
    }
    this.parent = this.ports.map((_, i) => i);
  }

  run(): InferredLink[] {
    this.fromCables();
    this.fromAdjacencies();
    this.fromNeighbours();
    this.fromNextHops();
    this.fromSubnets();
    const groups = new Map<number, number[]>();
    for (const i of this.ports.keys()) {
      const root = this.rootOf(i);
      groups.set(root, [...(groups.get(root) ?? []), i]);
    }
    const reasons = new Map<number, Join[]>();
    for (const join of this.joins) {
      const known = reasons.get(this.rootOf(join.a));
      if (known) known.push(join);
      else reasons.set(this.rootOf(join.a), [join]);
    }
    const taken = new Set<string>();
    return [...groups].flatMap(([root, group]) =>
      group.length > 1 ? [this.linkOf(group, reasons.get(root) ?? [], taken)] : [],
    );
  }

  private rootOf(i: number): number {
    let at = i;
    while (this.parent[at] !== at) {
      this.parent[at] = this.parent[this.parent[at]];
      at = this.parent[at];
    }
    return at;
  }

  private join(a: number | undefined, b: number | undefined, because: string, certain: boolean) {
    if (a === undefined || b === undefined || a === b) return;
    this.joins.push({ a, b, because, certain });
    this.parent[this.rootOf(a)] = this.rootOf(b);
  }

  private portOf(device: string, name: string): number | undefined {
    const id = this.idByName.get(idOf(device));
    return id === undefined ? undefined : this.byEnd.get(`${id}/${interfaceNameOf(name)}`);
  }

  private fromCables() {
    for (const { a, b } of this.cables) {
      this.join(
        this.portOf(a.device, a.interface),
        this.portOf(b.device, b.interface),
        "they are joined in a cable list",
        true,
      );
    }
  }

  private fromAdjacencies() {
    for (const { collector, document } of this.devices) {
      for (const { interface: name, name: heard, port, hardware } of collector.facts.adjacent) {
        const own = this.byEnd.get(`${document.id}/${interfaceNameOf(name)}`);
        const far =
          heard !== null && port !== null
            ? this.portOf(heard, port)
            : hardware !== null
              ? this.ownerOfHardware(hardware, null)
              : undefined;
        this.join(own, far, `${document.id} has neighbor ${heard ?? hardware} on ${name}`, true);
      }
    }
  }

  private ownerOfHardware(hardware: string, address: string | null): number | undefined {
    const owners = this.byHardware.get(hardware) ?? [];
    const withAddress = owners.find((i) => address !== null && this.hasAddress(i, address));
    return withAddress ?? (owners.length === 1 ? owners[0] : undefined);
  }

  private hasAddress(i: number, address: string): boolean {
    return this.ports[i].entry.addresses.some((own) => own.slice(0, own.indexOf("/")) === address);
  }

  /** A neighbour whose hardware is another device's, seen on an interface: both are on one link. */
  private fromNeighbours() {
    for (const { collector, document } of this.devices) {
      for (const { address, hardware, interface: name } of collector.facts.neighbours) {
        if (hardware === null || name === null) continue;
        const own = this.byEnd.get(`${document.id}/${interfaceNameOf(name)}`);
        this.join(
          own,
          this.ownerOfHardware(hardware, address),
          `${document.id} sees ${address} at ${hardware} on ${name}`,
          true,
        );
      }
    }
  }

  /** A next hop of a route that one other device owns, in a subnet of the interface that the route leaves by. */
  private fromNextHops() {
    const owners = new Map<string, number[]>();
    for (const [i, { entry }] of this.ports.entries()) {
      for (const own of entry.addresses) {
        const address = own.slice(0, own.indexOf("/"));
        owners.set(address, [...(owners.get(address) ?? []), i]);
      }
    }
    for (const { collector, document } of this.devices) {
      for (const { via, out } of collector.facts.routes) {
        const address = via === null ? null : parseAddress(via);
        const own = address && this.portTowards(document, out, address);
        const others = (via === null ? [] : (owners.get(via) ?? [])).filter(
          (i) => this.devices[this.ports[i].device].document !== document,
        );
        if (own === null || own === undefined || others.length !== 1) continue;
        this.join(own, others[0], `${via} is a next hop of ${document.id}`, false);
      }
    }
  }

  private portTowards(
    document: DeviceDocument,
    out: string | null,
    address: NonNullable<ReturnType<typeof parseAddress>>,
  ): number | undefined {
    if (out !== null && isIpv6LinkLocal(address))
      return this.byEnd.get(`${document.id}/${interfaceNameOf(out)}`);
    const entry = document.interfaces.find((candidate) =>
      subnetsOf(candidate).some((subnet) => containsAddress(subnet, address)),
    );
    return entry && this.byEnd.get(`${document.id}/${entry.name}`);
  }

  /** Interfaces in one subnet share a link, unless neighbor data shows several links or an address is duplicated. */
  private fromSubnets() {
    const groups = new Map<string, number[]>();
    for (const [i, { subnets }] of this.ports.entries()) {
      for (const subnet of subnets) {
        const key = formatPrefix(subnet);
        groups.set(key, [...(groups.get(key) ?? []), i]);
      }
    }
    for (const [subnet, members] of groups) {
      if (members.length < 2) continue;
      const joined = new Map<number, number>();
      for (const i of members) joined.set(this.rootOf(i), (joined.get(this.rootOf(i)) ?? 0) + 1);
      const segments = [...joined.values()].filter((size) => size > 1).length;
      const addresses = members.flatMap((i) => this.ports[i].entry.addresses);
      if (segments > 1 || new Set(addresses).size < addresses.length) continue;
      const length = Number(subnet.slice(subnet.indexOf("/") + 1));
      const pointToPoint = members.length === 2 && length >= (subnet.includes(":") ? 126 : 30);
      for (const i of members.slice(1)) this.join(members[0], i, `both are in ${subnet}`, pointToPoint);
    }
  }

  private linkOf(group: readonly number[], reasons: readonly Join[], taken: Set<string>): InferredLink {
    const ends = group.map((i) => this.ports[i].end);
    const names = [...new Set(group.map((i) => this.devices[this.ports[i].device].document.id))];
    const id = names.length === 2 ? names.join("-") : `${names[0]}-${idOf(this.ports[group[0]].entry.name)}`;
    return {
      id: takeName(idOf(id), taken),
      ends,
      because: [...new Set(reasons.map(({ because }) => because))],
      certain: reasons.some(({ certain }) => certain),
    };
  }
}

/** The subnets that an interface is in with others: its networks, those of one address left out. */
export function subnetsOf(entry: InterfaceDocument): Prefix[] {
  return entry.addresses.flatMap((text) => {
    const read = parseInterfaceAddress(text);
    if (!read || isIpv6LinkLocal(read.address)) return [];
    return read.length >= (read.address.family === 4 ? 32 : 128) ? [] : [prefixOf(read.address, read.length)];
  });
}
