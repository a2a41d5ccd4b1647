import type { Address } from "../address/index.ts";
import type { World } from "../forwarding/index.ts";
import { type Network, sourceCodes } from "../network/index.ts";
import { inUse, longestMatch, type NextHop, nextHopsOf } from "../routing/index.ts";
import type { AddressRange } from "./ranges.ts";

/**
 * Tells ranges that two worlds could treat differently from those that they surely treat alike. Where only
 * routes differ between two networks, a range matters if some device that was changed looks it up otherwise;
 * where anything else differs, every range does.
 */
export function suspectsOf(before: World, after: World): (range: AddressRange) => boolean {
  const devices = rewrittenDevices(before, after);
  if (!devices) return () => true;
  return ({ first }) =>
    devices.some((device) => {
      const tables = after.tablesOf(device).device;
      const count = tables.vrfs.length + tables.policyTables.length;
      for (let table = 0; table < count; table++) {
        if (lookedUp(before, device, table, first) !== lookedUp(after, device, table, first)) return true;
      }
      return false;
    });
}

/** The devices whose routes differ where nothing else does; null where more than routes differs. */
function rewrittenDevices(before: World, after: World): number[] | null {
  const [a, b] = [before.state.network, after.state.network];
  const same = (x: Uint8Array, y: Uint8Array) => x.length === y.length && x.every((v, i) => v === y[i]);
  if (a.interfaces !== b.interfaces || a.links !== b.links) return null;
  if (!same(before.state.interfaceUp, after.state.interfaceUp)) return null;
  if (!same(before.state.interfaceAlive, after.state.interfaceAlive)) return null;
  if (!same(before.state.linkAlive, after.state.linkAlive)) return null;
  if (!same(before.state.deviceAlive, after.state.deviceAlive)) return null;
  if (!same(before.state.tunnelPasses, after.state.tunnelPasses)) return null;
  const rewritten: number[] = [];
  for (const { index, profile } of b.devices) {
    const [old, now] = [a.plan.devices[index], b.plan.devices[index]];
    if (old === now && sameTables(before, after, index)) continue;
    const routesOnly = Object.keys({ ...old, ...now }).every(
      (key) =>
        old[key as keyof typeof old] === now[key as keyof typeof now] || key === "routes" || key === "watches",
    );
    // A return-path check looks the source up too, whatever the destination.
    if (!routesOnly || profile.returnPath !== "off") return null;
    rewritten.push(index);
  }
  return rewritten;
}

/** Whether a device that the plan leaves alone sees the same of itself. */
function sameTables(before: World, after: World, device: number): boolean {
  const [a, b] = [before.tablesOf(device), after.tablesOf(device)];
  return a.state.length === b.state.length && a.state.every((state, i) => state === b.state[i]);
}

/** What a table says for an address: the routes in use and where they lead. */
function lookedUp(world: World, device: number, table: number, address: Address): string {
  const { network } = world.state;
  const tables = world.tablesOf(device);
  const group = longestMatch(tables, table, address);
  if (group < 0) return "";
  return inUse(network, tables, group)
    .map((c) => {
      const hops = nextHopsOf(network, tables, c).map(hopText).join("+");
      // Which prefix matched decides between a policy table that is an overlay and the table under it.
      return `${network.candidates.length[c]} ${kindOf(network, c)} ${network.candidates.toVrf[c]} ${hops}`;
    })
    .join("|");
}

function kindOf(network: Network, c: number): string {
  const local = network.candidates.source[c] === sourceCodes.local ? "local" : "";
  return `${network.candidates.action[c]}${local}`;
}

function hopText({ out, address, peer }: NextHop): string {
  return `${out} ${peer} ${address ? `${address.w0}.${address.w1}.${address.w2}.${address.w3}` : ""}`;
}
