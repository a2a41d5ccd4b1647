import { type Address, isIpv6LinkLocal } from "../address/index.ts";
import { addressAt, type DeviceRecord, endsOf, type Network, rewiredPorts } from "../network/index.ts";
import { type Device, sameValue } from "../plan/index.ts";
import { sameBytes, sameRoles } from "../settle/index.ts";
import type { World } from "../walk/index.ts";

/** What differs between two worlds of the same devices on the same links. */
export interface Altered {
  /** The devices that could treat a packet otherwise, ascending: any other surely treats it alike. */
  readonly devices: readonly number[];
  /** Addresses that interfaces have in one and not in the other; whoever owns them, the internet among them, counts. */
  readonly addresses: readonly Address[];
}

/** The devices affected by an edit of routes, watches and interfaces: those edited, those with changed tables and, if
 * interfaces changed, all devices on their links. Null if more changed, or if forwarding depends on a packet's source:
 * then any device may be affected. */
export function alteredBetween(before: World, after: World): Altered | null {
  const [a, b] = [before.state.network, after.state.network];
  if (!sameFrame(a, b) || !sameLife(before, after)) return null;
  const moved = a.interfaces !== b.interfaces;
  // With the same beliefs, a device that the plan leaves alone has the same tables.
  const believed =
    sameBytes(before.state.watchUp, after.state.watchUp) &&
    sameBytes(before.state.answers, after.state.answers);
  const devices = new Set<number>();
  const ported: DeviceRecord[] = [];
  for (const record of b.devices) {
    const { index } = record;
    const [old, now] = [a.plan.devices[index], b.plan.devices[index]];
    const alike = old === now && (!moved || sameRoutes(a, b, index));
    if (alike && (believed || sameTables(before, after, index))) continue;
    if (!onlyDiffersIn(old, now, moved ? ["routes", "watches", "interfaces"] : ["routes", "watches"]))
      return null;
    devices.add(index);
    if (moved && !sameValue(old.interfaces, now.interfaces)) ported.push(record);
  }
  if (ported.some((record) => !portsAreOwnMatter(a, b, record))) return null;
  for (const { index } of ported) for (const d of neighborsOnLinks([a, b], index)) devices.add(d);
  const addresses = ported.flatMap(({ index }) => addressesChanged(a, b, index));
  if (addresses.length) for (const { role, index } of b.devices) if (role === "internet") devices.add(index);
  // A return-path check looks the source up too, whatever the destination.
  const list = [...devices].sort((x, y) => x - y);
  if (list.some((d) => b.devices[d].profile.returnPath !== "off" || answersForOthers(b, d))) return null;
  return { devices: list, addresses };
}

/** Whether a device's routes decide who answers ARP on its links (rule 2.7): packets may come that passed it by. */
function answersForOthers({ interfaces, devices }: Network, device: number): boolean {
  const { firstInterface, endInterface } = devices[device];
  return interfaces.proxyArp.subarray(firstInterface, endInterface).includes(1);
}

/** Whether two networks have the same devices, by their places, on the same links. */
function sameFrame(a: Network, b: Network): boolean {
  if (a.plan.pairs !== b.plan.pairs) return false;
  if (a.interfaces === b.interfaces && a.links === b.links) return true;
  return (
    a.plan.links === b.plan.links &&
    a.plan.profiles === b.plan.profiles &&
    a.tunnels.length === 0 &&
    b.tunnels.length === 0 &&
    a.devices.length === b.devices.length &&
    a.devices.every(({ id }, d) => id === b.devices[d].id)
  );
}

/** Whether the same devices, links and tunnels are alive in both worlds, and all interfaces present in both apart from
 * edited ones. */
function sameLife(before: World, after: World): boolean {
  const [a, b] = [before.state, after.state];
  if (!sameBytes(a.deviceAlive, b.deviceAlive) || !sameBytes(a.linkAlive, b.linkAlive)) return false;
  if (!sameBytes(a.tunnelPasses, b.tunnelPasses) || !sameRoles(a.roles, b.roles)) return false;
  if (!sameBytes(a.members, b.members)) return false;
  if (a.forgotten || b.forgotten) return false;
  if (a.network.interfaces === b.network.interfaces)
    return sameBytes(a.interfaceUp, b.interfaceUp) && sameBytes(a.interfaceAlive, b.interfaceAlive);
  return a.network.devices.every(({ index, firstInterface, endInterface }) => {
    if (a.network.plan.devices[index] !== b.network.plan.devices[index]) return true;
    const there = b.network.devices[index].firstInterface;
    for (let i = firstInterface; i < endInterface; i++) {
      const j = there + i - firstInterface;
      if (a.interfaceUp[i] !== b.interfaceUp[j] || a.interfaceAlive[i] !== b.interfaceAlive[j]) return false;
    }
    return true;
  });
}

/** Whether a device that the plan leaves alone sees the same of itself. */
function sameTables(before: World, after: World, device: number): boolean {
  const untouched = !before.touched[device] && !after.touched[device];
  if (untouched && after.store.like === before.store && after.store.isTakenOver(device)) return true;
  const [one, other] = [before.tablesOf(device), after.tablesOf(device)];
  return one.state.length === other.state.length && one.state.every((state, i) => state === other.state[i]);
}

/** Whether the gateways offered to a device, and its link-derived routes, are unchanged. */
function sameRoutes(a: Network, b: Network, device: number): boolean {
  const [from, to] = [a.devices[device], b.devices[device]];
  const [x, y] = [a.candidates, b.candidates];
  if (to.endCandidate - to.firstCandidate !== from.endCandidate - from.firstCandidate) return false;
  for (let n = 0; n < from.endCandidate - from.firstCandidate; n++) {
    const [c, d] = [from.firstCandidate + n, to.firstCandidate + n];
    if (x.hasVia[c] !== y.hasVia[d] || x.length[c] !== y.length[d]) return false;
    if (x.peer[c] < 0 ? y.peer[d] >= 0 : interfaceText(a, x.peer[c]) !== interfaceText(b, y.peer[d]))
      return false;
    for (let w = 0; w < 4; w++) {
      if (x.via[c * 4 + w] !== y.via[d * 4 + w] || x.destination[c * 4 + w] !== y.destination[d * 4 + w])
        return false;
    }
  }
  return true;
}

/** An interface by device and name: its number may differ between two networks. */
export function interfaceText({ interfaces, devices }: Network, i: number): string {
  return i < 0 ? "-" : `${devices[interfaces.device[i]].id}/${interfaces.names[i]}`;
}

function onlyDiffersIn(old: Device, now: Device, keys: readonly string[]): boolean {
  return Object.keys({ ...old, ...now }).every(
    (key) => keys.includes(key) || old[key as keyof Device] === now[key as keyof Device],
  );
}

/** Whether a device's interfaces only decide where its packets go: no policy, translation or table refers to them, and
 * its own packets keep their source addresses. */
function portsAreOwnMatter(
  a: Network,
  b: Network,
  { index, vrfs, policy, sourceNat, destinationNat, policyTables }: DeviceRecord,
): boolean {
  if (policy || sourceNat.length || destinationNat.length || policyTables.length) return false;
  if (a.devices[index].vrfs.join() !== vrfs.join()) return false;
  const sets = [a, b].map(
    ({ plan }) => new Map(plan.devices[index].interfaces.map((port) => [port.name, port])),
  );
  const hasFour = (texts: readonly string[]) => texts.some((text) => !text.includes(":"));
  return [0, 1].every((n) =>
    [...sets[n]].every(([name, port]) => {
      const other = sets[1 - n].get(name);
      if (other) return sameValue(port, other) && hasFour(port.addresses);
      return (
        port.addresses.every((text) => !text.includes(":") || /^fe80:/i.test(text)) &&
        port.kind !== "loopback"
      );
    }),
  );
}

/** Devices on a link with an interface of a device by which its neighbours see otherwise of it. */
function neighborsOnLinks([a, b]: readonly [Network, Network], device: number): number[] {
  const rewired = rewiredPorts(a.plan.devices[device], b.plan.devices[device]);
  return [a, b].flatMap(({ interfaces, links, devices }) => {
    const { firstInterface, endInterface } = devices[device];
    const list: number[] = [];
    for (let i = firstInterface; i < endInterface; i++) {
      if (interfaces.link[i] < 0 || (rewired && !rewired.has(interfaces.names[i]))) continue;
      for (const end of endsOf(links, interfaces.link[i])) list.push(interfaces.device[end]);
    }
    return list;
  });
}

/** Addresses of a device that only one of two networks has. */
function addressesChanged(a: Network, b: Network, device: number): Address[] {
  const [old, now] = [a, b].map(({ devices, interfaces, addresses }) => {
    const { firstInterface, endInterface } = devices[device];
    const found = new Map<string, Address>();
    for (let i = firstInterface; i < endInterface; i++) {
      for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
        const address = addressAt(addresses.words, addresses.family[k] === 6 ? 6 : 4, k);
        const { family, w0, w1, w2, w3 } = address;
        if (!isIpv6LinkLocal(address)) found.set(`${family} ${w0} ${w1} ${w2} ${w3}`, address);
      }
    }
    return found;
  });
  const only = (one: typeof old, other: typeof old) =>
    [...one].flatMap(([key, address]) => (other.has(key) ? [] : [address]));
  return [...only(old, now), ...only(now, old)];
}
