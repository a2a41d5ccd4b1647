import {
  containsAddress,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
  prefixOf,
} from "../../core/address/index.ts";
import type { Collector, Fate, RouteFact } from "../facts/index.ts";
import { isAttached } from "./routes.ts";

/** A part of the drawing, and the line of the table that it came from. */
interface Part {
  readonly id: string;
  readonly line: number;
}

/** An interface of the device with its attachments. */
export interface PicturePort extends Part {
  readonly name: string;
  readonly text: string;
}

/** A neighbour that routes lead to: only its address is known. */
export interface PictureHop extends Part {
  readonly address: string;
  /** The interface toward it; null if unknown. */
  readonly port: string | null;
}

/** A network: attached to an interface, behind a neighbour, or discarded. */
export interface PictureNetwork extends Part {
  readonly prefix: string;
  /** The part that it hangs on: an interface, a neighbour, or the device itself. */
  readonly on: string;
  readonly kind: "attached" | "behind" | "discarded";
  /** How far away it is where a hop count tells; "" else. */
  readonly far: string;
}

export interface PictureLine {
  readonly line: number;
  readonly text: string;
  readonly fate: Fate | null;
  readonly detail: string;
  /** The parts that it added, by their ids. */
  readonly adds: readonly string[];
}

/** The drawing that grows from a table of one device, line by line. */
export interface Picture {
  readonly device: string;
  readonly lines: readonly PictureLine[];
  readonly ports: readonly PicturePort[];
  readonly hops: readonly PictureHop[];
  readonly networks: readonly PictureNetwork[];
}

const DEVICE = "device";

/** What a device's table draws: each part with its line, each line with its parts. `text`: the table as it was given. */
export function pictureOf(collector: Collector, text: string): Picture {
  const ports = new Map<string, PicturePort>();
  const hops = new Map<string, PictureHop>();
  const networks = new Map<string, PictureNetwork>();
  const portAt = (line: number, name: string): PicturePort => {
    const known = ports.get(name);
    if (known) return known;
    const made = { id: `port ${name}`, line, name, text: name };
    ports.set(name, made);
    return made;
  };
  for (const { line, facts } of collector.added) {
    for (const added of facts) {
      if (added.kind === "interface") drawInterface(line, added, portAt, networks);
      else drawRoute(line, added.route, { collector, portAt, hops, networks });
    }
  }
  const all = [...ports.values(), ...hops.values(), ...networks.values()];
  const fates = new Map(collector.fates.map((fate) => [fate.line, fate]));
  const lines = text.split(/\r?\n/).map((raw, i) => {
    const { fate = null, detail = "" } = fates.get(i + 1) ?? {};
    const adds = all.filter((part) => part.line === i + 1).map(({ id }) => id);
    return { line: i + 1, text: raw, fate, detail, adds };
  });
  const device = collector.name;
  return {
    device,
    lines,
    ports: [...ports.values()],
    hops: [...hops.values()],
    networks: [...networks.values()],
  };
}

function drawInterface(
  line: number,
  { name, addresses }: { name: string; addresses: readonly string[] },
  portAt: (line: number, name: string) => PicturePort,
  networks: Map<string, PictureNetwork>,
) {
  const port = portAt(line, name);
  for (const address of addresses) {
    const id = `network ${name} ${address}`;
    if (!networks.has(id))
      networks.set(id, { id, line, prefix: address, on: port.id, kind: "attached", far: "" });
  }
}

function drawRoute(
  line: number,
  route: RouteFact,
  drawn: {
    collector: Collector;
    portAt: (line: number, name: string) => PicturePort;
    hops: Map<string, PictureHop>;
    networks: Map<string, PictureNetwork>;
  },
) {
  const { to, via, out, discard } = route;
  const put = (network: Omit<PictureNetwork, "id" | "line" | "prefix">) => {
    const id = `network ${to} ${network.on}`;
    if (!drawn.networks.has(id)) drawn.networks.set(id, { id, line, prefix: to, ...network });
  };
  if (route.source === "local") return;
  if (discard) return put({ on: DEVICE, kind: "discarded", far: "" });
  if (via === null) {
    const on = out === null ? DEVICE : drawn.portAt(line, out).id;
    return put({ on, kind: isAttached(route) ? "attached" : "behind", far: "" });
  }
  const id = `hop ${via}`;
  if (!drawn.hops.has(id)) {
    const name = out ?? portTowards(drawn.collector, via);
    const port = name === null ? null : drawn.portAt(line, name).id;
    drawn.hops.set(id, { id, line, address: via, port });
  }
  put({ on: id, kind: "behind", far: farOf(route) });
}

/** The interface whose network contains an address; null if unknown. */
function portTowards({ facts }: Collector, via: string): string | null {
  const address = parseAddress(via);
  if (!address) return null;
  for (const { name, addresses } of facts.interfaces) {
    for (const own of addresses) {
      const read = parseInterfaceAddress(own);
      if (read && containsAddress(prefixOf(read.address, read.length), address)) return name;
    }
  }
  const attached = facts.routes.find((route) => {
    const prefix = isAttached(route) && route.out !== null ? parsePrefix(route.to) : null;
    return prefix !== null && containsAddress(prefix, address);
  });
  return attached?.out ?? null;
}

/** RFC 2453, 3.4: a metric of RIP counts hops. */
function farOf({ source, metric }: RouteFact): string {
  if ((source !== "rip" && source !== "ripng") || metric === null || metric < 2) return "";
  return `${metric - 1} ${metric === 2 ? "router" : "routers"} away`;
}
