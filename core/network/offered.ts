import {
  type Address,
  containsAddress,
  defaultPrefix,
  type Family,
  type Prefix,
  parsePrefix,
} from "../address/index.ts";
import type { Device, Plan } from "../plan/index.ts";
import { type Entry, plainEntry, type Settled } from "./entry.ts";
import type { Ports } from "./interfaces.ts";
import { addressAt, endsOf, sourceCodes } from "./network.ts";
import { subnetsOf } from "./subnets.ts";

/** Who hands a gateway out, the nearest to the internet first. */
const offering = ["provider", "internet", "cloud", "router", "firewall"];

/** Rules 3.4 and 4.9: the gateway offered on an interface is the forwarding device at the far end of the link. `via` is
 * null and `peer` -1 if none is offered in the family. */
export function offeredGateway(
  device: Device,
  name: string,
  family: Family,
  settled: Settled,
  ports: Ports,
  plan: Plan,
): { via: Address | null; peer: number } {
  const n = device.interfaces.findIndex((port) => port.name === name);
  const from = device.interfaces[n]?.gatewayFrom;
  if (!from || family !== (from === "ra" ? 6 : 4)) return { via: null, peer: -1 };
  const i = settled.firstInterface + n;
  const far = farEnds(ports, i)
    .map((peer) => ({ peer, rank: offering.indexOf(plan.devices[ports.interfaces.device[peer]].role) }))
    .filter(({ peer, rank }) => rank >= 0 && firstAddress(ports, peer, family))
    .sort((a, b) => a.rank - b.rank)[0];
  const own = subnetsOf(ports, i).filter((subnet) => subnet.address.family === family);
  return far
    ? { via: gatewayAddress(ports, far.peer, family, own), peer: far.peer }
    : { via: null, peer: -1 };
}

/** Rule 3.4: a default through the gateway that is handed out. */
export function handedOut(device: Device, settled: Settled, ports: Ports, plan: Plan): Entry[] {
  const entries: Entry[] = [];
  for (const [n, port] of device.interfaces.entries()) {
    if (!port.gatewayFrom) continue;
    const i = settled.firstInterface + n;
    const family: Family = port.gatewayFrom === "ra" ? 6 : 4;
    const { via, peer } = offeredGateway(device, port.name, family, settled, ports, plan);
    const entry = plainEntry(ports.interfaces.vrf[i], sourceCodes.handedOut, defaultPrefix(family), i);
    entry.protocol = port.gatewayFrom;
    entry.via = via;
    entry.peer = peer;
    entry.distance = settled.profile.staticDistance === null ? -1 : settled.profile.handedOutDistance;
    entry.metric = settled.profile.addInterfaceMetric ? ports.interfaces.metric[i] : 0;
    if (!via) entry.fault = "no-gateway-offered";
    else if (settled.role !== "host" && !settled.forwards[family]) entry.fault = "forwarding-off";
    entry.order = n;
    entries.push(entry);
  }
  return entries;
}

function farEnds(ports: Ports, i: number): number[] {
  const link = ports.interfaces.link[i];
  if (link < 0) return [];
  return Array.from(endsOf(ports.links, link)).filter((end) => end !== i);
}

function firstAddress(ports: Ports, i: number, family: Family): Address | null {
  return gatewayAddress(ports, i, family, []);
}

/** The interface's address in one of the subnets, else its first address of the family. */
function gatewayAddress(ports: Ports, i: number, family: Family, subnets: readonly Prefix[]): Address | null {
  let first: Address | null = null;
  for (let k = ports.interfaces.addressStart[i]; k < ports.interfaces.addressStart[i + 1]; k++) {
    if (ports.addresses.family[k] !== family) continue;
    const address = addressAt(ports.addresses.words, family, k);
    if (subnets.some((subnet) => containsAddress(subnet, address))) return address;
    first ??= address;
  }
  return first;
}

/** Rules 7.3, 7.4 and 8: a default towards the internet, and on the internet what providers announce. */
export function system(settled: Settled, ports: Ports, plan: Plan): Entry[] {
  const { role } = settled;
  const entries: Entry[] = [];
  if (role !== "provider" && role !== "cloud" && role !== "internet") return entries;
  for (let i = settled.firstInterface; i < settled.endInterface; i++) {
    for (const peer of farEnds(ports, i)) {
      const other = plan.devices[ports.interfaces.device[peer]];
      const subnets = subnetsOf(ports, i);
      const add = (source: number, to: Prefix) => {
        const entry = plainEntry(ports.interfaces.vrf[i], source, to, i);
        entry.protocol = source === sourceCodes.system ? "system" : "announced";
        entry.via = gatewayAddress(ports, peer, to.address.family, subnets);
        entry.peer = peer;
        entry.distance = source === sourceCodes.system ? 254 : 20;
        entry.needsAnswer = source === sourceCodes.announced;
        entries.push(entry);
      };
      if (role !== "internet" && other.role === "internet")
        for (const family of [4, 6] as const) add(sourceCodes.system, defaultPrefix(family));
      if (role === "internet" && other.role === "provider")
        for (const text of other.announces ?? []) add(sourceCodes.announced, parsePrefix(text) as Prefix);
    }
  }
  // Where several providers announce one prefix, the earlier in the document is taken (rule 7.4).
  const rank = (entry: Entry) => ports.interfaces.device[entry.peer];
  entries.sort((a, b) => rank(a) - rank(b));
  for (const [order, entry] of entries.entries()) entry.order = order;
  return entries;
}
