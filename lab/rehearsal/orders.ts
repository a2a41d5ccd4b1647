import {
  containsAddress,
  formatAddress,
  networkOf,
  parseAddress,
  parseInterfaceAddress,
} from "../../core/address/index.ts";
import { addTo } from "../../core/collections/index.ts";
import { profileOf } from "../../core/network/index.ts";
import type { Device, Plan, Probe, StaticRoute, Track, VirtualRouter, Watch } from "../../core/plan/index.ts";
import type {
  FlowOrder,
  HostGatewaysOrder,
  Orders,
  TunnelOrder,
  VirtualOrder,
  WatchedRoute,
  WatchOrder,
} from "../agent/orders.ts";
import { FIRST_FLOW_PORT } from "../agent/orders.ts";
import type { Lab } from "../lab.ts";
import { kernelMetric, portName } from "../names.ts";
import { partsOfTunnel } from "../tunnels.ts";

/** A flow in its sent form: from a device, optionally from a given address, to an address. */
export interface SentFlow {
  readonly id: string;
  /** Its position in the plan. */
  readonly number: number;
  readonly device: string;
  readonly source: string | null;
  readonly to: string;
  readonly rate: number;
}

/** The orders for a device's agent, or null if it has none; and the routing for its probes. */
export interface AgentSetup {
  readonly device: string;
  readonly orders: Orders;
  /** Tables of its pinned probes and the rules that lead there, for iproute2, before the agent starts. */
  readonly pins: Pins;
}

/** Lines of each family: rules are of one or the other. */
export interface Pins {
  readonly 4: string[];
  readonly 6: string[];
}

/** The agents of a plan that the kernel shows. `fresh`: each packet comes as a new connection. */
export function seatsOf(
  plan: Plan,
  lab: Lab,
  flows: readonly SentFlow[],
  gateways: number,
  fresh: boolean,
): AgentSetup[] {
  return plan.devices.flatMap((device): AgentSetup[] => {
    const pins: Pins = { 4: [], 6: [] };
    const orders: Orders = {
      ports: device.interfaces.map(({ name }) => portName(name)),
      watches: device.watches.map((watch, n) => watchOrder(device, watch, n, pins)),
      routes: device.routes.flatMap((route) =>
        route.watch ? [watchedRoute(device, route, route.watch)] : [],
      ),
      virtuals: virtualOrders(device, lab),
      tunnels: tunnelOrders(device, lab),
      hostGateways: hostGatewaysOf(plan, device),
      flows: flows
        .filter((flow) => flow.device === device.id)
        .map((flow): FlowOrder => {
          const { id, number, source, to, rate } = flow;
          return { flow: id, number, source, to, port: FIRST_FLOW_PORT + number, rate, gateways, fresh };
        }),
      echoes: flows
        .filter(({ to }) => answersFor(plan, device, to))
        .map(({ to, number }) => ({ address: to, port: FIRST_FLOW_PORT + number })),
    };
    const { watches, virtuals, tunnels, hostGateways, flows: sent, echoes } = orders;
    const idle = [watches, virtuals, tunnels, hostGateways, sent, echoes].every((list) => list.length === 0);
    return idle ? [] : [{ device: device.id, orders, pins }];
  });
}

const bareAddress = (address: string) => address.split("/")[0];

/** The address's owner, or the internet for addresses without one. */
function answersFor(plan: Plan, device: Device, address: string): boolean {
  const owns = (one: Device) =>
    one.interfaces.some(({ addresses }) => addresses.some((own) => bareAddress(own) === address));
  return owns(device) || (device.role === "internet" && !plan.devices.some(owns));
}

/** Whether the subnet of an interface's address holds another address. */
function holds(text: string, other: string): boolean {
  const own = parseInterfaceAddress(text);
  const address = parseAddress(other);
  if (!own || own.address.family !== address?.family) return false;
  return containsAddress({ address: networkOf(own.address, own.length), length: own.length }, address);
}

/** By which interface a next hop is reached: as written, or the one whose subnet holds it. */
function portTowards(device: Device, via: string): string | null {
  const port = device.interfaces.find(({ addresses }) => addresses.some((address) => holds(address, via)));
  return port?.name ?? null;
}

function watchedRoute(device: Device, route: StaticRoute, watch: string): WatchedRoute {
  return { watch, words: routeWords(device, route) };
}

/** A route as iproute2 takes it, in the table of a number or in the main one. */
function routeWords(device: Device, route: StaticRoute, table = "main"): string {
  const out = route.out ?? (route.via ? portTowards(device, route.via) : null);
  return [
    ...(route.discard ? [route.discard === "drop" ? "blackhole" : "unreachable"] : []),
    route.to,
    ...(route.via ? ["via", route.via] : []),
    ...(out ? ["dev", portName(out)] : []),
    ...(route.onLink ? ["onlink"] : []),
    "metric",
    String(kernelMetric(route.metric, route.to.includes(":") ? "-6" : "-4")),
    "table",
    table,
  ].join(" ");
}

function watchOrder(device: Device, watch: Watch, n: number, pins: Pins): WatchOrder {
  switch (watch.kind) {
    case "interface":
      return { kind: "interface", id: watch.id, port: portName(watch.interface) };
    case "route":
      return { kind: "route", id: watch.id, to: watch.to };
    case "group": {
      const { id, need, of, downDelayMs = 0, upDelayMs = 0 } = watch;
      return { kind: "group", id, need, of, downDelayMs, upDelayMs };
    }
    case "bfd": {
      const { id, peer, minTxMs, minRxMs, multiplier } = watch;
      const local = localAddress(device, watch.interface, peer);
      return { kind: "bfd", id, local, peer: zoned(peer, watch.interface), minTxMs, minRxMs, multiplier };
    }
    case "probe": {
      const { id, intervalMs, timeoutMs, failAfter, recoverAfter } = watch;
      const words = probeWords(device, watch, n, pins);
      return { kind: "probe", id, intervalMs, timeoutMs, failAfter, recoverAfter, arguments: words };
    }
  }
}

const zoned = (address: string, port: string) =>
  /^fe80:/i.test(address) ? `${address}%${portName(port)}` : address;

/** The address of an interface that a neighbour on it hears us by. */
function localAddress(device: Device, name: string, peer: string): string {
  const port = device.interfaces.find((one) => one.name === name);
  const own = (port?.addresses ?? []).filter((address) => address.includes(":") === peer.includes(":"));
  return zoned(bareAddress(own.find((address) => holds(address, peer)) ?? own[0] ?? ""), name);
}

/** Rules before all others, by the mark that a probe's packets have; and a table for each. */
const FIRST_PIN = 300;

/** The arguments of ping; a pinned probe gets its own table, so that its result does not affect its path. */
function probeWords(device: Device, probe: Probe, n: number, pins: Pins): string[] {
  const out = probe.out ?? (probe.via ? portTowards(device, probe.via) : null);
  const words: string[] = [];
  if (probe.source) words.push("-I", sourceOf(device, probe.source, probe.target));
  if (!out) return [...words, probe.target];
  const number = String(FIRST_PIN + n);
  const family = probe.target.includes(":") ? 6 : 4;
  const ways = probe.via
    ? [{ to: family === 6 ? "::/0" : "0.0.0.0/0", via: probe.via, out }]
    : device.routes.filter(
        (route) =>
          route.to.includes(":") === (family === 6) &&
          (route.out ?? (route.via ? portTowards(device, route.via) : null)) === out,
      );
  for (const way of ways) pins[family].push(`route add ${routeWords(device, way, number)}`);
  pins[family].push(`rule add fwmark ${number} lookup ${number} priority ${number}`);
  return [...words, "-I", portName(out), "-m", number, probe.target];
}

/** An interface's name represents its first address of the target's family. */
function sourceOf(device: Device, source: string, target: string): string {
  const port = device.interfaces.find(({ name }) => name === source);
  const address = port?.addresses.find((one) => one.includes(":") === target.includes(":"));
  return address ? bareAddress(address) : source;
}

/** The tracked items that lower a virtual router: its own, and those of routers Active together with it (rule 14.7). */
function trackedBy(device: Device, { track, sync }: VirtualRouter): Track[] {
  if (sync === undefined) return track;
  const all = device.interfaces.flatMap((port) => port.virtual ?? []);
  const tracks = all.filter((one) => one.sync === sync).flatMap((one) => one.track);
  const isSame = (a: Track, b: Track) => a.watch === b.watch && a.interface === b.interface;
  return tracks.filter((one, n) => {
    const others = tracks.map((other, m) => ({ other, m })).filter(({ other }) => isSame(one, other));
    return others.every(({ other, m }) => other.lower < one.lower || (other.lower === one.lower && m >= n));
  });
}

function virtualOrders(device: Device, lab: Lab): VirtualOrder[] {
  return lab.virtualPorts
    .filter(({ end }) => end.startsWith(`${device.id}/`))
    .flatMap(({ end, virtual, own, ownAddress }): VirtualOrder[] => {
      const name = end.slice(device.id.length + 1);
      const port = device.interfaces.find((one) => one.name === name);
      const primary = parseInterfaceAddress(port?.addresses.find((address) => !address.includes(":")) ?? "");
      if (!primary) return [];
      const { id, addresses, priority, preempt, preemptDelayMs, advertMs, sync } = virtual;
      return [
        {
          ...{ id, addresses, priority, preempt, preemptDelayMs, advertMs, own, ownAddress },
          port: portName(name),
          primary: formatAddress(primary.address),
          length: primary.length,
          ...(sync === undefined ? {} : { sync }),
          track: trackedBy(device, virtual).map(({ watch, interface: tracked, lower }) => ({
            ...(watch !== undefined ? { watch } : {}),
            ...(tracked !== undefined ? { port: portName(tracked) } : {}),
            lower,
          })),
        },
      ];
    });
}

/** How often a host looks whether a gateway is there, and how long it waits for the answer; milliseconds. */
const GATEWAY_PROBE_MS = 100;

/** Routes of a host to one destination by several gateways: one is in use until it is silent for its time (rule 7.1). */
function hostGatewaysOf(plan: Plan, device: Device): HostGatewaysOrder[] {
  const { deadGatewayMs, failback } = profileOf(plan, device).profile;
  if (!deadGatewayMs) return [];
  // Silence is detected within one interval of this count.
  const failAfter = Math.max(1, Math.round((deadGatewayMs.min + deadGatewayMs.max) / 2 / GATEWAY_PROBE_MS));
  const byDestination = new Map<string, StaticRoute[]>();
  for (const route of device.routes)
    if (route.via && !route.watch && route.enabled !== false) addTo(byDestination, route.to, route);
  return [...byDestination.values()].flatMap((routes): HostGatewaysOrder[] => {
    if (routes.length < 2) return [];
    const gateways = [...routes]
      .sort((a, b) => (a.metric ?? 0) - (b.metric ?? 0))
      .flatMap((route) => {
        const out = route.out ?? portTowards(device, route.via ?? "");
        if (!out) return [];
        const times = { intervalMs: GATEWAY_PROBE_MS, timeoutMs: GATEWAY_PROBE_MS };
        const probe = {
          ...times,
          failAfter,
          recoverAfter: 1,
          arguments: ["-I", portName(out), route.via ?? ""],
        };
        return [{ port: portName(out), words: routeWords(device, route), probe }];
      });
    return [{ keepsTo: failback !== "at-once", gateways }];
  });
}

/** Those of which the device is the underlay. */
function tunnelOrders({ id }: Device, lab: Lab): TunnelOrder[] {
  return [...lab.tunnels.entries()].flatMap(
    ([position, { under, from, to, keepaliveMs, failAfter }]): TunnelOrder[] => {
      if (under !== id) return [];
      const words = [...(from ? ["-I", from] : []), to];
      return [{ port: partsOfTunnel(position).port, keepaliveMs, failAfter, arguments: words }];
    },
  );
}
