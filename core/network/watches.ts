import {
  type Address,
  type Family,
  type Prefix,
  parseAddress,
  parsePrefix,
  parseZonedAddress,
  type ZonedAddress,
} from "../address/index.ts";
import { addTo } from "../collections/index.ts";
import type { Plan, Probe } from "../plan/index.ts";
import type { Ports } from "./interfaces.ts";
import { addressAt, endsOf, type ProbeRecord, type WatchRecord } from "./network.ts";

/** Watches with what their texts name as numbers, sessions with the one that the far end holds for them (rule 9.2). */
export function compileWatches(
  plan: Plan,
  ports: Ports,
  vrfs: readonly (readonly string[])[],
): WatchRecord[] {
  const records: WatchRecord[] = [];
  for (const [d, device] of plan.devices.entries()) {
    if (device.watches.length === 0) continue;
    const first = records.length;
    const places = new Map(device.watches.map((watch, n) => [watch.id, first + n]));
    const portOf = (name: string) => ports.interfaceIndex.get(`${device.id}/${name}`) as number;
    for (const watch of device.watches) {
      records.push({
        index: records.length,
        device: d,
        watch,
        members: watch.kind === "group" ? watch.of.map((id) => places.get(id) as number) : [],
        port: watch.kind === "bfd" || watch.kind === "interface" ? portOf(watch.interface) : -1,
        peer: watch.kind === "bfd" ? parseAddress(watch.peer) : null,
        partner: -1,
        probe: watch.kind === "probe" ? compileProbe(watch, portOf) : null,
        route:
          watch.kind === "route"
            ? { to: parsePrefix(watch.to) as Prefix, vrf: Math.max(0, vrfs[d].indexOf(watch.vrf ?? "main")) }
            : null,
      });
    }
  }
  return withPartners(records, ports);
}

function compileProbe(probe: Probe, portOf: (name: string) => number): ProbeRecord {
  const { address: target, zone } = parseZonedAddress(probe.target) as ZonedAddress;
  const leaves = probe.out ?? zone ?? undefined;
  const source = probe.source === undefined ? null : parseAddress(probe.source);
  return {
    target,
    out: leaves === undefined ? -1 : portOf(leaves),
    source,
    sourcePort: probe.source !== undefined && !source ? portOf(probe.source) : -1,
    via: probe.via ? parseAddress(probe.via) : null,
  };
}

/** Rule 9.2: the session of another device on the same link, each naming an address of the other's interface. */
function withPartners(records: readonly WatchRecord[], ports: Ports): WatchRecord[] {
  const { interfaces, addresses, links } = ports;
  /** Sessions by the interface that they stand on and the address that they name. */
  const sessions = new Map<string, number[]>();
  const key = (port: number, { family, w0, w1, w2, w3 }: Address) =>
    `${port} ${family} ${w0} ${w1} ${w2} ${w3}`;
  for (const { index, port, peer } of records) {
    if (!peer) continue;
    addTo(sessions, key(port, peer), index);
  }
  const owned = (port: number): Address[] => {
    const list: Address[] = [];
    for (let k = interfaces.addressStart[port]; k < interfaces.addressStart[port + 1]; k++)
      list.push(addressAt(addresses.words, addresses.family[k] as Family, k));
    return list;
  };
  const owns = (port: number, { family, w0, w1, w2, w3 }: Address) =>
    owned(port).some((a) => a.w0 === w0 && a.w1 === w1 && a.w2 === w2 && a.w3 === w3 && a.family === family);
  return records.map((record) => {
    const { port, peer, device } = record;
    if (!peer || interfaces.link[port] < 0) return record;
    let partner = -1;
    for (const there of endsOf(links, interfaces.link[port])) {
      if (interfaces.device[there] === device || !owns(there, peer)) continue;
      for (const back of owned(port)) {
        for (const other of sessions.get(key(there, back)) ?? [])
          if (partner < 0 || other < partner) partner = other;
      }
    }
    return partner < 0 ? record : { ...record, partner };
  });
}
