import type { Pair, Plan } from "../plan/index.ts";
import type { Ports } from "./interfaces.ts";
import type { Monitored, PairRecord } from "./network.ts";

export interface Pairs {
  readonly pairs: PairRecord[];
  readonly pairPlace: Int32Array;
  readonly twin: Int32Array;
}

/** The pairs of a plan (rule 17): interfaces of one name and the same addresses are shared, others stay each one's own. */
export function compilePairs(
  plan: Plan,
  { interfaces, interfaceIndex }: Ports,
  watchOf: (device: number, id: string) => number,
): Pairs {
  const pairPlace = new Int32Array(plan.devices.length).fill(-1);
  const twin = new Int32Array(interfaces.count).fill(-1);
  if (plan.pairs.length === 0) return { pairs: [], pairPlace, twin };
  const devices = new Map(plan.devices.map((device, d) => [device.id, d]));
  const links = new Map(plan.links.map((link, l) => [link.id, l]));
  const pairs = plan.pairs.map((pair, index): PairRecord => {
    const members = pair.members.map((id) => devices.get(id) as number) as [number, number];
    for (const [n, d] of members.entries()) pairPlace[d] = index * 2 + n;
    const [one, other] = members.map((d) => plan.devices[d]);
    for (const port of one.interfaces) {
      const same = other.interfaces.find((far) => far.name === port.name);
      if (!same || port.addresses.length === 0 || !sameSet(port.addresses, same.addresses)) continue;
      const [i, k] = [one, other].map(({ id }) => interfaceIndex.get(`${id}/${port.name}`) as number);
      twin[i] = k;
      twin[k] = i;
    }
    return {
      index,
      id: pair.id,
      members,
      preferred: pair.active === pair.members[0] ? 0 : 1,
      preempt: pair.preempt,
      helloMs: pair.helloMs,
      missed: pair.missed,
      heartbeats: pair.heartbeats.map((id) => links.get(id) as number),
      monitors: members.map((d) => monitoredBy(plan, pair, d, interfaceIndex, watchOf)) as [
        Monitored,
        Monitored,
      ],
      syncStates: pair.syncStates,
    };
  });
  return { pairs, pairPlace, twin };
}

/** The monitored interface or, without one of that name, watch. */
function monitoredBy(
  plan: Plan,
  pair: Pair,
  d: number,
  interfaceIndex: ReadonlyMap<string, number>,
  watchOf: (device: number, id: string) => number,
): Monitored {
  const { id } = plan.devices[d];
  const found: { interfaces: number[]; watches: number[] } = { interfaces: [], watches: [] };
  for (const name of pair.monitor) {
    const port = interfaceIndex.get(`${id}/${name}`);
    if (port !== undefined) found.interfaces.push(port);
    else found.watches.push(watchOf(d, name));
  }
  return found;
}

function sameSet(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && a.every((one) => b.includes(one));
}
