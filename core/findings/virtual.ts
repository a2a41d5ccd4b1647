import { type Address, sameAddress } from "../address/index.ts";
import { interfaceWritten, type VirtualGroup, type VirtualRecord, virtualPlace } from "../network/index.ts";
import type { Change, VirtualRouter } from "../plan/index.ts";
import { priorityOf } from "../settle/index.ts";
import type { Context, TracedFlow } from "./context.ts";

/** A group of two virtual routers or more, with the one that is Active and the one that would take over. */
export interface VirtualState {
  readonly group: VirtualGroup;
  readonly active: VirtualRecord;
  readonly backup: VirtualRecord;
}

/** The groups with a Backup, in the state with nothing failed. */
export function virtualStates(context: Context): readonly VirtualState[] {
  return context.once("virtual groups", () => {
    const { network, healthy } = context;
    const { virtuals } = network;
    return network.virtualGroups.flatMap((group) => {
      const active = group.members.find((v) => healthy.state.roles.virtualActive[v]);
      const others = group.members.filter((v) => v !== active);
      if (active === undefined || others.length === 0) return [];
      const rank = (v: number) => priorityOf(healthy.state, v);
      const backup = others.reduce((best, v) => (rank(v) > rank(best) ? v : best));
      return [{ group, active: virtuals[active], backup: virtuals[backup] }];
    });
  });
}

/** "ra/lan, virtual router 16", and the id of its device. */
export function virtualName({ network }: Context, { interface: i, id }: VirtualRecord): string {
  return `virtual router ${id} on ${deviceId(network, i)}/${network.interfaces.names[i]}`;
}

/** What a finding of a virtual router is about: "lan 16". */
export function virtualSubject({ network }: Context, { interface: i, id }: VirtualRecord): string {
  return `${network.interfaces.names[i]} ${id}`;
}

export function deviceId({ devices, interfaces }: Context["network"], i: number): string {
  return devices[interfaces.device[i]].id;
}

/** The flows whose packets go by a virtual address of a group, and the interface by which each leaves its Active. */
export function flowsBy(context: Context, { active }: VirtualState): { asked: TracedFlow; out: number }[] {
  const { interfaces } = context.network;
  const device = interfaces.device[active.interface];
  const isVirtual = (address: Address | null) =>
    address !== null && active.addresses.some((one) => sameAddress(one, address));
  return context.flows.flatMap((asked) => {
    for (const { outbound } of asked.trip.branches) {
      const at = outbound.hops.findIndex((hop) => isVirtual(hop.nextHop) && hop.to === device);
      const out = at < 0 ? -1 : (outbound.hops[at + 1]?.out ?? -1);
      if (out >= 0) return [{ asked, out }];
    }
    return [];
  });
}

/** The change that gives an interface's virtual router other values, and with it `others` of the same interface. */
export function virtualChange(
  { network }: Context,
  record: VirtualRecord,
  after: (router: VirtualRouter) => VirtualRouter,
  others: readonly VirtualRecord[] = [],
): Change {
  const before = interfaceWritten(network, record.interface);
  const places = new Set([record, ...others].map((one) => virtualPlace(network, one)));
  const virtual = (before.virtual ?? []).map((router, n) => (places.has(n) ? after(router) : router));
  return {
    in: "device",
    device: deviceId(network, record.interface),
    collection: "interfaces",
    before,
    after: { ...before, virtual },
  };
}
