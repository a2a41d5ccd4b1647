import { type Address, type Family, formatAddress, formatPrefix, PrefixList } from "../address/index.ts";
import { addTo } from "../collections/index.ts";
import { type FlowSweep, sweep } from "../failures/index.ts";
import {
  type Attachment,
  actionCodes,
  attachmentsOf,
  type DeviceRecord,
  type ElementNumber,
  findNeighbour,
  type Neighbour,
  type Network,
  viaOf,
} from "../network/index.ts";
import type { Change, Device, Edit, Flow, StaticRoute, Watch } from "../plan/index.ts";
import type { NextHop } from "../routes/index.ts";
import type { Scenario } from "../scenario/index.ts";
import type { Engine, Settled } from "../settle/index.ts";
import {
  type DropCode,
  flatTrips,
  type GatewayRecord,
  type Question,
  type Trip,
  type Walk,
  type World,
  walkPacket,
} from "../walk/index.ts";
import type { Evidence } from "./finding.ts";
import { grouped } from "./grouped.ts";
import { SteadyStates } from "./steady-states.ts";
import { type Written, WrittenRoutes } from "./written.ts";

export type { Written } from "./written.ts";

/** A flow with the way that it takes, followed when it is first asked for. */
export class TracedFlow {
  private followed: Trip | null = null;

  constructor(
    readonly flow: Flow,
    readonly question: Question,
    private readonly follow: () => Trip,
  ) {}

  get trip(): Trip {
    this.followed ??= this.follow();
    return this.followed;
  }
}

/** What the checks look at. Costly parts are computed when first asked for, once. */
export class Context {
  readonly engine: Engine;
  readonly network: Network;
  readonly healthy: World;
  readonly gateways: readonly GatewayRecord[];
  /** The flows that must work. */
  readonly flows: readonly TracedFlow[];
  /** The flows that must be denied. */
  readonly deniedFlows: readonly TracedFlow[];
  readonly routes: WrittenRoutes;
  private readonly states: SteadyStates;
  private readonly kept = new Map<string, unknown>();

  /** `focus` restricts the check to the routes of one device. */
  constructor(
    readonly scenario: Scenario,
    private readonly focus: string | null = null,
  ) {
    const { engine } = scenario;
    this.engine = engine;
    this.states = new SteadyStates(engine);
    this.network = engine.network;
    this.healthy = engine.healthy.world;
    this.gateways = engine.gateways;
    this.routes = new WrittenRoutes(this.healthy);
    const asked = scenario
      .flows()
      .map(({ flow, question }) => new TracedFlow(flow, question, () => scenario.trip(flow.id, question)));
    this.flows = asked.filter(({ question }) => !question.mustBeDenied);
    this.deniedFlows = asked.filter(({ question }) => question.mustBeDenied);
  }

  /** Every written route that is looked at: of the whole plan, or of the device in focus. */
  get written(): readonly Written[] {
    return this.focus === null
      ? this.routes.all
      : this.devices.flatMap(({ index }) => [...this.routes.of(index)]);
  }

  /** The devices that are looked at. */
  get devices(): readonly DeviceRecord[] {
    const { devices, deviceIndex } = this.network;
    return this.focus === null
      ? devices
      : devices.filter(({ index }) => index === deviceIndex.get(this.focus ?? ""));
  }

  get attachments(): readonly Attachment[] {
    return this.once("attachments", () => attachmentsOf(this.network));
  }

  /** The attachments that stand on a link, by it and by their device. */
  get places(): {
    readonly onLink: ReadonlyMap<number, readonly Attachment[]>;
    readonly onDevice: ReadonlyMap<number, readonly Attachment[]>;
  } {
    return this.once("places", () => {
      const { link } = this.network.interfaces;
      const linked = this.attachments.filter((a) => link[a.interface] >= 0);
      return {
        onLink: grouped(linked, (a) => link[a.interface]),
        onDevice: grouped(linked, (a) => a.device),
      };
    });
  }

  /** The attachments by the prefix of their subnet. */
  get subnets(): PrefixList<Attachment> {
    return this.once("subnets", () => new PrefixList(this.attachments, (a) => a.prefix));
  }

  /** The attachments of a device. */
  attachmentsOf(device: number): readonly Attachment[] {
    const byDevice = this.once("attachments of devices", () => grouped(this.attachments, (a) => a.device));
    return byDevice.get(device) ?? [];
  }

  /** The attachments on the link of an interface; none where it has no link. */
  onLinkOf(i: number): readonly Attachment[] {
    return this.places.onLink.get(this.network.interfaces.link[i]) ?? [];
  }

  /** The flows of which a packet follows a candidate on its way out. */
  flowsBy(candidate: number): readonly TracedFlow[] {
    return this.flowsFrom(this.network.candidates.device[candidate]).get(candidate) ?? [];
  }

  /** The flows whose packets pass a device on their way out, by the candidates that they follow there. */
  private flowsFrom(device: number): ReadonlyMap<number, readonly TracedFlow[]> {
    return this.once(`flows from ${device}`, () => {
      const found = new Map<number, TracedFlow[]>();
      for (const asked of this.flowsPast.get(device) ?? []) {
        const hops = asked.trip.branches.flatMap(({ outbound }) => outbound.hops);
        const here = hops.filter((hop) => hop.device === device);
        for (const candidate of new Set(here.map((hop) => hop.candidate))) addTo(found, candidate, asked);
      }
      return found;
    });
  }

  /** The flows by the devices that they pass, there or back. */
  private get flowsPast(): ReadonlyMap<number, readonly TracedFlow[]> {
    return this.walked.past;
  }

  /** The flows that work, both ways. */
  get working(): ReadonlySet<TracedFlow> {
    return this.walked.working;
  }

  /** Every flow, walked once. */
  private get walked() {
    return this.once("walked flows", () => {
      const trips = flatTrips(this.network);
      const past = new Map<number, TracedFlow[]>();
      const working = new Set<TracedFlow>();
      for (const asked of this.flows) {
        if (trips.verdictOf(this.healthy, asked.question) === "works") working.add(asked);
        for (const device of trips.devicesPassed()) addTo(past, device, asked);
      }
      return { past, working };
    });
  }

  /** Every single failure for every flow. */
  get sweep(): FlowSweep[] {
    return this.once("sweep", () =>
      sweep(
        this.engine,
        this.gateways,
        this.flows.map(({ question }) => question),
        1,
      ),
    );
  }

  /** The steady state under a set of failed elements, to be looked at before many others are asked for. */
  settle(failed: readonly ElementNumber[]): Settled {
    return this.states.under(failed);
  }

  /** Computes a value of the context on first use. */
  once<T>(name: string, make: () => T): T {
    if (!this.kept.has(name)) this.kept.set(name, make());
    return this.kept.get(name) as T;
  }

  deviceOf(record: DeviceRecord): Device {
    return this.network.plan.devices[record.index];
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
    return walkPacket(world, ownPacket(device, destination))[0];
  }

  /** How such a packet ends; null where it arrives. */
  endFrom(device: number, destination: Address): DropCode | null {
    return flatTrips(this.network).firstEnd(this.healthy, ownPacket(device, destination));
  }

  /** The addresses of a device's interfaces that stand on one link with another interface. */
  addressOnLink(
    device: number,
    link: number,
    family: Family,
  ): { address: Address; interface: number } | null {
    const onLink = this.places.onLink.get(link) ?? [];
    return onLink.find((a) => a.device === device && a.address.family === family) ?? null;
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

function ownPacket(device: number, destination: Address): Question {
  return { device, vrf: 0, source: null, destination, protocol: "icmp", port: null };
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
