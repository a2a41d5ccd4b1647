import {
  type Address,
  isIpv6LinkLocal,
  type Prefix,
  parseAddress,
  parsePrefix,
  subnetAddressKind,
} from "../address/index.ts";
import type { Device, Plan, StaticRoute } from "../plan/index.ts";
import type { Entry, Settled } from "./entry.ts";
import type { Ports } from "./interfaces.ts";
import { actionCodes, type Fault, resolveCodes, sourceCodes } from "./network.ts";
import { offeredGateway } from "./offered.ts";
import { namesAddressOf } from "./roles.ts";
import type { Attached } from "./subnets.ts";

/** The device whose routes are being compiled, with the items they refer to. */
interface Writer {
  readonly plan: Plan;
  readonly device: Device;
  readonly settled: Settled;
  readonly ports: Ports;
  readonly attached: Attached;
  /** The places of the device's watches in its list. */
  readonly watchPlaces: ReadonlyMap<string, number>;
  /** The addresses of its virtual routers, with the interface that each stands on. */
  readonly virtuals: readonly { readonly interface: number; readonly address: Address }[];
  /** Faults found for a next hop, by its text and the other inputs: most routes of a device share a few. */
  readonly faults: Map<string, Map<number, Fault>>;
}

/** A written route as a candidate (rules 3.2, 4 and 5.4), in the table and VRF given. */
export function writtenEntry(
  writer: Writer,
  route: StaticRoute,
  table: number,
  vrf: number,
  order: number,
): Entry {
  const { device, settled, ports, plan, attached } = writer;
  const { profile } = settled;
  const to = parsePrefix(route.to) as Prefix;
  const offered = route.viaFrom
    ? offeredGateway(device, route.viaFrom, to.address.family, settled, ports, plan)
    : null;
  const via = offered ? offered.via : route.via ? parseAddress(route.via) : null;
  const entry: Entry = {
    table,
    vrf,
    source: sourceCodes.static,
    protocol: null,
    to,
    via,
    out: outOf(writer, route.out ?? route.viaFrom),
    peer: offered?.peer ?? -1,
    distance: profile.staticDistance === null ? -1 : (route.distance ?? profile.staticDistance),
    metric: route.metric ?? 0,
    resolve: resolveCodes[route.resolve ?? profile.resolve],
    action: actionOf(route),
    toVrf: route.toVrf ? vrfOf(settled, route.toVrf) : -1,
    watch: watchOf(writer, route.watch),
    fault: route.enabled === false ? "disabled" : "",
    needsAnswer: false,
    order,
    recursive: via !== null && route.out === undefined && !offered,
  };
  if (offered && !offered.via) entry.fault ||= "no-gateway-offered";
  entry.metric += addedMetric(entry, settled, ports, attached);
  // An offered gateway is on the link regardless of addresses.
  const onLink = Boolean(route.onLink) || offered !== null;
  entry.fault ||= rememberedFault(writer, entry, onLink, route.via ?? "");
  entry.fault ||= faultOfDistance(entry, settled);
  entry.needsAnswer = leadsToOwnVirtual(writer, entry);
  return entry;
}

/** Whether a next hop is the device itself while one of its own virtual routers is Active (rule 4.4). */
function leadsToOwnVirtual({ virtuals, ports }: Writer, { via, vrf, out }: Entry): boolean {
  if (!via) return false;
  return virtuals.some(({ interface: i, address }) =>
    namesAddressOf({ via, vrf, out }, i, ports.interfaces, address),
  );
}

/** The same in the VRF that the route names. */
export function writtenInVrf(writer: Writer, route: StaticRoute, order: number): Entry {
  const vrf = vrfOf(writer.settled, route.vrf);
  return writtenEntry(writer, route, vrf, vrf, order);
}

/** A learned route (rule 3.3): it is there while its neighbour answers, whatever form a written one would need. */
export function learnedEntry(writer: Writer, route: Device["learned"][number], order: number): Entry {
  const { protocol, lostAfterMs: _lost, distance, ...rest } = route;
  const entry = writtenInVrf(writer, rest, order);
  entry.source = sourceCodes.learned;
  entry.protocol = protocol;
  entry.distance = writer.settled.profile.staticDistance === null ? -1 : (distance ?? 110);
  if (entry.fault === "distance-too-great") entry.fault = "";
  entry.fault ||= faultOfDistance(entry, writer.settled);
  if (entry.fault === "interface-required" || entry.fault === "interface-next-hop-refused") entry.fault = "";
  entry.needsAnswer = entry.via !== null;
  return entry;
}

/** Rule 5.1: a distance that a device's family does not use. */
function faultOfDistance({ distance }: Entry, { profile }: Settled): Fault {
  return distance > profile.maxDistance ? "distance-too-great" : "";
}

/** What `faultOf` finds; it rests on nothing but what the key says. */
function rememberedFault(writer: Writer, entry: Entry, onLink: boolean, via: string): Fault {
  if (entry.via && via === "") return faultOf(entry, onLink, writer.settled, writer.ports, writer.attached);
  const place =
    (((entry.vrf * 16 + entry.action) * 2 + Number(onLink)) * 2 + Number(entry.to.address.family === 6)) *
      2 ** 24 +
    entry.out;
  const known = writer.faults.get(via) ?? new Map<number, Fault>();
  let fault = known.get(place);
  if (fault === undefined) {
    fault = faultOf(entry, onLink, writer.settled, writer.ports, writer.attached);
    known.set(place, fault);
    writer.faults.set(via, known);
  }
  return fault;
}

function outOf({ ports, device }: Writer, name: string | undefined): number {
  return name === undefined ? -1 : (ports.interfaceIndex.get(`${device.id}/${name}`) as number);
}

function watchOf({ watchPlaces }: Writer, id: string | undefined): number {
  return id === undefined ? -1 : (watchPlaces.get(id) as number);
}

function vrfOf(settled: Settled, name: string | undefined): number {
  return settled.vrfs.indexOf(name ?? "main");
}

function actionOf(route: StaticRoute): number {
  if (route.discard) return actionCodes[route.discard];
  return route.toVrf ? actionCodes.vrf : actionCodes.forward;
}

function addedMetric(entry: Entry, settled: Settled, ports: Ports, attached: Attached): number {
  if (!settled.profile.addInterfaceMetric) return 0;
  const { out, via, vrf } = entry;
  const leaves = out >= 0 ? out : via ? (attached.nearest(vrf, via)?.interface ?? -1) : -1;
  return leaves >= 0 ? ports.interfaces.metric[leaves] : 0;
}

/** Rules 4.1, 4.2, 4.4, 4.5, 4.8: what no outage changes. */
function faultOf(entry: Entry, onLink: boolean, settled: Settled, ports: Ports, attached: Attached): Fault {
  const { profile } = settled;
  const { interfaces } = ports;
  const family = entry.to.address.family;
  if (settled.role !== "host" && !settled.forwards[family]) return "forwarding-off";
  if (entry.action !== actionCodes.forward) return "";
  const { via, out } = entry;
  if (via) {
    // A link-local address may stand on every link anew: it is the device's own only on the interface named.
    const own = attached.owning(entry.vrf, via).some((a) => !(isIpv6LinkLocal(via) && out !== a.interface));
    if (own) return "next-hop-own-address";
    if (isIpv6LinkLocal(via)) return out < 0 ? "link-local-without-interface" : "";
    const near = attached.nearest(entry.vrf, via);
    const kind = near && subnetAddressKind(near.subnet, via);
    // The first address of an IPv6 subnet is every forwarding router's own there; to a host it is a good next hop.
    if (kind && via.family === 6 && settled.role !== "host") return "next-hop-own-address";
    if (kind && via.family === 4 && !onLink)
      return kind === "network" ? "next-hop-network-address" : "next-hop-broadcast-address";
    if (out >= 0 && !onLink && !attached.holdsOn(out, via)) {
      return "next-hop-not-on-interface";
    }
    if (out < 0 && profile.interfaceRequired) return "interface-required";
    return "";
  }
  if (profile.interfaceNextHop === "refuse") return "interface-next-hop-refused";
  if (profile.interfaceNextHop === "point-to-point" && !interfaces.pointToPoint[out]) {
    return "interface-next-hop-refused";
  }
  return "";
}
