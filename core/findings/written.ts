import { type Prefix, PrefixList } from "../address/index.ts";
import { addTo } from "../collections/index.ts";
import { type DeviceRecord, destinationOf, sourceCodes } from "../network/index.ts";
import type { StaticRoute } from "../plan/index.ts";
import {
  type NextHop,
  nextHopsOf,
  type ReasonCode,
  type RouteState,
  reasonCodes,
  routeStates,
} from "../routes/index.ts";
import { asIfInService } from "../settle/index.ts";
import type { World } from "../walk/index.ts";

/** A written route with what became of it with no failures. */
export interface Written {
  readonly candidate: number;
  readonly device: DeviceRecord;
  readonly route: StaticRoute;
  /** The policy table that it stands in, or null. */
  readonly table: string | null;
  readonly to: Prefix;
  readonly state: RouteState;
  readonly reason: ReasonCode;
  readonly hops: readonly NextHop[];
}

/** The written routes of a plan in a world, by device, destination and prefix; each device's are looked at when asked for. */
export class WrittenRoutes {
  private readonly devices: (Written[] | undefined)[] = [];
  private readonly groups = new Map<number, Written[]>();
  private readonly tables = new Map<string, PrefixList<Written>>();
  private everything: Written[] | null = null;

  constructor(private readonly world: World) {}

  /** All of them, in the order of the plan's devices. */
  get all(): readonly Written[] {
    this.everything ??= this.world.state.network.devices.flatMap(({ index }) => [...this.of(index)]);
    return this.everything;
  }

  /** Those of a device, by table and destination. */
  of(device: number): readonly Written[] {
    let list = this.devices[device];
    if (!list) {
      list = this.look(device);
      this.devices[device] = list;
    }
    return list;
  }

  /** Those of the same destination in the same table, itself among them. */
  beside(written: Written): readonly Written[] {
    this.of(written.device.index);
    const { group } = this.world.state.network.candidates;
    return this.groups.get(group[written.candidate]) ?? [];
  }

  /** Those of the same table, by prefix. */
  inTableOf({ device, candidate }: Written): PrefixList<Written> {
    const { table } = this.world.state.network.candidates;
    const wanted = table[candidate];
    return this.list(`${device.index} ${wanted}`, () =>
      this.of(device.index).filter((w) => table[w.candidate] === wanted),
    );
  }

  /** Those of a device, whatever their table, by prefix. */
  prefixesOf(device: number): PrefixList<Written> {
    return this.list(`${device}`, () => this.of(device));
  }

  private list(key: string, make: () => readonly Written[]): PrefixList<Written> {
    let list = this.tables.get(key);
    if (!list) {
      list = new PrefixList(make(), (w) => w.to);
      this.tables.set(key, list);
    }
    return list;
  }

  private look(index: number): Written[] {
    const { network } = this.world.state;
    const { candidates } = network;
    const device = network.devices[index];
    // A standby member uses no route now, but will after a takeover.
    const tables = asIfInService(this.world, index).tablesOf(index);
    const plan = network.plan.devices[index];
    const list: Written[] = [];
    for (let c = device.firstCandidate; c < device.endCandidate; c++) {
      if (candidates.source[c] !== sourceCodes.static) continue;
      const own = candidates.table[c] - device.vrfs.length;
      const policyTable = own >= 0 ? plan.policyTables[own] : null;
      const written: Written = {
        candidate: c,
        device,
        route: (policyTable ? policyTable.routes : plan.routes)[candidates.order[c]],
        table: policyTable?.name ?? null,
        to: destinationOf(network, c),
        state: routeStates[tables.state[c - device.firstCandidate]],
        reason: reasonCodes[tables.reason[c - device.firstCandidate]],
        hops: nextHopsOf(network, tables, c),
      };
      list.push(written);
      addTo(this.groups, candidates.group[c], written);
    }
    return list;
  }
}
