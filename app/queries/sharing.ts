import { formatAddress } from "../../core/address/index.ts";
import { virtualPlace } from "../../core/network/index.ts";
import { hearEachOther, priorityOf, takesPart } from "../../core/settle/index.ts";
import type { World } from "../../core/walk/index.ts";

/** A virtual router of a device as it stands (rule 14), with those that it hears on its link. */
export interface VirtualView {
  port: string;
  /** Its place among the virtual routers written on the interface. */
  place: number;
  id: number;
  addresses: string[];
  state: "Active" | "Backup" | "down";
  priority: number;
  /** Its priority with nothing tracked down. */
  written: number;
  owner: boolean;
  preempt: boolean;
  advertMs: number;
  /** Tracked items that lower its priority while down. */
  tracks: { what: string; up: boolean; lower: number }[];
  others: { device: string; label: string; state: VirtualView["state"]; priority: number }[];
}

/** The pair that a device is a member of (rule 17). */
export interface PairView {
  id: string;
  label: string;
  active: boolean;
  other: { device: string; label: string; active: boolean };
  hearEachOther: boolean;
  syncStates: boolean;
}

export function virtualsOf(world: World, device: number): VirtualView[] {
  const { state } = world;
  const { network } = state;
  const { virtuals, virtualGroups, interfaces, devices, watches } = network;
  const mine = virtuals.filter((record) => interfaces.device[record.interface] === device);
  return mine.map((record): VirtualView => {
    const others = virtualGroups[record.group].members.filter((v) => v !== record.index);
    return {
      port: interfaces.names[record.interface],
      place: virtualPlace(network, record),
      id: record.id,
      addresses: record.addresses.map(formatAddress),
      state: standingOf(world, record.index),
      priority: priorityOf(state, record.index),
      written: record.priority,
      owner: record.owner,
      preempt: record.preempt,
      advertMs: record.advertMs,
      tracks: record.track.map(({ watch, interface: i, lower }) => ({
        what: watch >= 0 ? `watch ${watches[watch].watch.id}` : interfaces.names[i],
        up: (watch >= 0 ? state.watchUp[watch] : state.carrierUp[i]) === 1,
        lower,
      })),
      others: others.map((v) => {
        const { id, label } = devices[interfaces.device[virtuals[v].interface]];
        return { device: id, label, state: standingOf(world, v), priority: priorityOf(state, v) };
      }),
    };
  });
}

function standingOf({ state }: World, v: number): VirtualView["state"] {
  if (!takesPart(state, v)) return "down";
  return state.roles.virtualActive[v] ? "Active" : "Backup";
}

export function pairOf({ state }: World, device: number): PairView | null {
  const { network, roles } = state;
  const place = network.pairPlace[device];
  if (place < 0) return null;
  const pair = network.pairs[place >> 1];
  const other = network.devices[pair.members[1 - (place & 1)]];
  return {
    id: pair.id,
    label: network.plan.pairs[pair.index].label ?? pair.id,
    active: roles.pairActive[place] > 0,
    other: { device: other.id, label: other.label, active: roles.pairActive[place ^ 1] > 0 },
    hearEachOther: hearEachOther(state, pair),
    syncStates: pair.syncStates,
  };
}
