import { type Address, type Family, formatAddress, formatPrefix, type Prefix } from "../address/index.ts";
import { type Engine, type Settled, settle } from "../convergence/index.ts";
import {
  type GatewayRecord,
  type Question,
  type Trip,
  type Walk,
  type World,
  walkPacket,
} from "../forwarding/index.ts";
import {
  type Attachment,
  actionCodes,
  attachmentsOf,
  type DeviceRecord,
  destinationOf,
  type ElementNumber,
  findNeighbour,
  type Neighbour,
  type Network,
  sourceCodes,
  viaOf,
} from "../network/index.ts";
import type { Change, Device, Edit, Flow, StaticRoute, Watch } from "../plan/index.ts";
import { type FlowSweep, sweep } from "../resilience/index.ts";
import {
  type NextHop,
  nextHopsOf,
  type ReasonCode,
  type RouteState,
  reasonCodes,
  routeStates,
} from "../rib/index.ts";
import type { Scenario } from "../scenario/index.ts";
import type { Evidence } from "./finding.ts";

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

export interface AskedFlow {
  readonly flow: Flow;
  readonly question: Question;
  readonly trip: Trip;
}

/** What the checks look at. Costly parts are computed when first asked for, once. */
export class Context {
  readonly engine: Engine;
  readonly network: Network;
  readonly healthy: World;
  readonly gateways: readonly GatewayRecord[];
  readonly flows: readonly AskedFlow[];
  readonly written: readonly Written[];
  readonly attachments: readonly Attachment[];
  /** The attachments by the link that they stand on, and by their device. */
  readonly places: {
    readonly onLink: ReadonlyMap<number, readonly Attachment[]>;
    readonly onDevice: ReadonlyMap<number, readonly Attachment[]>;
  };
  private swept: FlowSweep[] | null = null;

  constructor(readonly scenario: Scenario) {
    const { engine } = scenario;
    this.engine = engine;
    this.network = engine.network;
    this.healthy = engine.healthy.world;
    this.gateways = engine.gateways;
    const trips = scenario.trips();
    this.flows = scenario.flows().map(({ flow, question }) => ({
      flow,
      question,
      trip: trips.get(flow.id) ?? scenario.trace(question),
    }));
    this.attachments = attachmentsOf(this.network);
    const { link } = this.network.interfaces;
    const linked = this.attachments.filter((a) => link[a.interface] >= 0);
    this.places = {
      onLink: grouped(linked, (a) => link[a.interface]),
      onDevice: grouped(linked, (a) => a.device),
    };
    this.written = this.network.devices.flatMap((device) => this.writtenOn(device));
  }

  /** Every single failure, for every flow. */
  get sweep(): FlowSweep[] {
    this.swept ??= sweep(
      this.engine,
      this.gateways,
      this.flows.map(({ question }) => question),
      1,
    );
    return this.swept;
  }

  settle(failed: readonly ElementNumber[]): Settled {
    return settle(this.engine, failed);
  }

  deviceOf(record: DeviceRecord): Device {
    return this.network.plan.devices[record.index];
  }

  private writtenOn(device: DeviceRecord): Written[] {
    const { network } = this;
    const { candidates } = network;
    const tables = this.healthy.tablesOf(device.index);
    const plan = this.deviceOf(device);
    const list: Written[] = [];
    for (let c = device.firstCandidate; c < device.endCandidate; c++) {
      if (candidates.source[c] !== sourceCodes.static) continue;
      const own = candidates.table[c] - device.vrfs.length;
      const policyTable = own >= 0 ? plan.policyTables[own] : null;
      const route = (policyTable ? policyTable.routes : plan.routes)[candidates.order[c]];
      list.push({
        candidate: c,
        device,
        route,
        table: policyTable?.name ?? null,
        to: destinationOf(network, c),
        state: routeStates[tables.state[c - device.firstCandidate]],
        reason: reasonCodes[tables.reason[c - device.firstCandidate]],
        hops: nextHopsOf(network, tables, c),
      });
    }
    return list;
  }

  /** Who takes a packet that follows a next hop. */
  neighbourOf(hop: NextHop, world: World = this.healthy): Neighbour {
    return findNeighbour(world.state, hop.out, hop.address, hop.peer);
  }

  /** The device behind a written route's first next hop, or -1. */
  nextDevice(written: Written): number {
    const [hop] = written.hops;
    const neighbour = hop ? this.neighbourOf(hop).interface : -1;
    return neighbour < 0 ? -1 : this.network.interfaces.device[neighbour];
  }

  /** A packet sent by a device itself, from whatever address it chooses, out only. */
  walkFrom(device: number, destination: Address, world: World = this.healthy): Walk {
    const [walk] = walkPacket(world, {
      device,
      vrf: 0,
      source: null,
      destination,
      protocol: "icmp",
      port: null,
    });
    return walk;
  }

  /** The addresses of a device's interfaces that stand on one link with another interface. */
  addressOnLink(
    device: number,
    link: number,
    family: Family,
  ): { address: Address; interface: number } | null {
    const found = this.attachments.find(
      (a) =>
        a.device === device &&
        a.address.family === family &&
        this.network.interfaces.link[a.interface] === link,
    );
    return found ?? null;
  }

  routeEvidence(written: Written): Evidence {
    const via = viaOf(this.network, written.candidate);
    return {
      kind: "route",
      device: written.device.id,
      to: formatPrefix(written.to),
      via: via ? formatAddress(via) : null,
      out: written.route.out ?? null,
    };
  }

  /** Whether a route is in use in a VRF's own table and leads on to more than a default's everything. */
  isSpecific(written: Written): boolean {
    return (
      written.state === "in-use" && written.to.length > 0 && written.table === null && this.forwards(written)
    );
  }

  /** Whether a route forwards, rather than discarding or changing the VRF. */
  forwards(written: Written): boolean {
    return this.network.candidates.action[written.candidate] === actionCodes.forward;
  }
}

function grouped<T>(items: readonly T[], key: (item: T) => number): Map<number, T[]> {
  const groups = new Map<number, T[]>();
  for (const item of items) {
    const group = groups.get(key(item));
    if (group) group.push(item);
    else groups.set(key(item), [item]);
  }
  return groups;
}

/** An edit of one written route: `after` null removes it. */
export function routeEdit(
  written: Pick<Written, "device" | "route" | "table">,
  after: StaticRoute | null,
  label: string,
): Edit {
  return { label, changes: [routeChange(written, after)] };
}

export function routeChange(
  { device, route, table }: Pick<Written, "device" | "route" | "table">,
  after: StaticRoute | null,
): Change {
  return table === null
    ? { in: "device", device: device.id, collection: "routes", before: route, after }
    : { in: "policy-table", device: device.id, table, before: route, after };
}

export function addRoute(device: string, route: StaticRoute): Change {
  return { in: "device", device, collection: "routes", before: null, after: route };
}

export function addWatch(device: string, watch: Watch): Change {
  return { in: "device", device, collection: "watches", before: null, after: watch };
}
