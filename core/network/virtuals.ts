import { type Address, parseAddress, sameAddress } from "../address/index.ts";
import { addTo } from "../collections/index.ts";
import type { Plan, Track, VirtualRouter } from "../plan/index.ts";
import { interfaceWritten } from "./elements.ts";
import type { Ports } from "./interfaces.ts";
import { addressAt, type Network, type VirtualGroup, type VirtualRecord } from "./network.ts";

/** The priority of whoever owns the virtual addresses (RFC 9568, section 5.2.4). */
const OWNER = 255;

/** The virtual routers of a plan, one for each family, and the groups of those that hear each other (rule 14.1). */
export function compileVirtuals(
  plan: Plan,
  { interfaces, interfaceIndex, addresses }: Ports,
  watchOf: (device: number, id: string) => number,
): { readonly virtuals: VirtualRecord[]; readonly groups: VirtualGroup[] } {
  const found: Omit<VirtualRecord, "group" | "together">[] = [];
  const mates = new Map<string, number[]>();
  const onLink = new Map<string, number[]>();
  const ownOn = (i: number, family: number): Address[] => {
    const list: Address[] = [];
    for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++)
      if (addresses.family[k] === family) list.push(addressAt(addresses.words, family as 4 | 6, k));
    return list;
  };
  const add = (d: number, i: number, router: VirtualRouter, family: 4 | 6, list: Address[]) => {
    const own = ownOn(i, family);
    const owner = own.some((one) => list.some((virtual) => sameAddress(one, virtual)));
    const portOf = (name: string) => interfaceIndex.get(`${plan.devices[d].id}/${name}`) as number;
    const tracked = ({ watch, interface: name, lower }: Track) => ({
      watch: watch === undefined ? -1 : watchOf(d, watch),
      interface: name === undefined ? -1 : portOf(name),
      lower,
    });
    const index = found.length;
    if (router.sync !== undefined) addTo(mates, `${d} ${router.sync}`, index);
    // An interface without a link hears no advertisements.
    const link = interfaces.link[i];
    addTo(onLink, link < 0 ? `alone ${index}` : `${link} ${router.id} ${family}`, index);
    found.push({
      index,
      interface: i,
      id: router.id,
      family,
      addresses: list,
      priority: owner ? OWNER : router.priority,
      owner,
      preempt: router.preempt,
      preemptDelayMs: router.preemptDelayMs,
      advertMs: router.advertMs,
      accept: router.accept,
      track: router.track.map(tracked),
      primary: own[0] ?? null,
    });
  };
  for (const [d, device] of plan.devices.entries()) {
    for (const port of device.interfaces) {
      if (!port.virtual?.length) continue;
      const i = interfaceIndex.get(`${device.id}/${port.name}`) as number;
      for (const router of port.virtual) {
        const all = router.addresses.map((text) => parseAddress(text) as Address);
        for (const family of [4, 6] as const) {
          const list = all.filter((address) => address.family === family);
          if (list.length) add(d, i, router, family, list);
        }
      }
    }
  }
  const groupOf = new Int32Array(found.length);
  const groups = [...onLink.values()].map((members, g): VirtualGroup => {
    for (const member of members) groupOf[member] = g;
    return { link: interfaces.link[found[members[0]].interface], members };
  });
  const together = new Map([...mates.values()].flatMap((list) => list.map((v) => [v, list] as const)));
  return {
    groups,
    virtuals: found.map((record) => ({
      ...record,
      group: groupOf[record.index],
      together: together.get(record.index) ?? [record.index],
    })),
  };
}

/**
 * The place of a virtual router among those that its interface is written with: one that is written with addresses of both
 * families is two.
 */
export function virtualPlace(network: Network, { interface: i, id, family }: VirtualRecord): number {
  const isSix = family === 6;
  return (interfaceWritten(network, i).virtual ?? []).findIndex(
    (router) => router.id === id && router.addresses.some((text) => text.includes(":") === isSix),
  );
}
