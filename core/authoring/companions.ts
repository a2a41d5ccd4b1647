import {
  type Address,
  containsAddress,
  formatAddress,
  formatPrefix,
  type Prefix,
  samePrefix,
} from "../address/index.ts";
import { addRoute, Context, type Written } from "../findings/context.ts";
import { bfdBothEnds } from "../findings/fixes/bfd.ts";
import { type Attachment, type ElementNumber, formatElement, interfaceElement } from "../network/index.ts";
import { type Change, describeRoute, routeIdentity, type StaticRoute } from "../plan/index.ts";
import { repairOf } from "../remedies/index.ts";
import type { Scenario } from "../scenario/index.ts";
import type { Companion } from "./companion.ts";
import { probeBeyond } from "./probe.ts";

/**
 * What could be written beside a route, from what the network holds. `scenario` has the route already.
 * They are not proven: show the costs of each before it is applied (`costsOf`).
 */
export function companionsOf(scenario: Scenario, device: string, route: StaticRoute): Companion[] {
  const context = new Context(scenario);
  const own = context.network.deviceIndex.get(device);
  const written = context.routes
    .of(own ?? -1)
    .find((w) => w.table === null && routeIdentity(w.route) === routeIdentity(route));
  if (!written || !context.forwards(written)) return [];
  return [
    ...otherEnd(context, written),
    ...floatingTwins(context, written),
    ...watchers(context, written),
    ...discards(context, written),
  ];
}

/** The routes that packets from the networks behind the device lack, both ways, once this one carries them. */
function otherEnd(context: Context, written: Written): Companion[] {
  const [hop] = written.hops;
  const next = context.nextDevice(written);
  if (!hop || next < 0) return [];
  const target = targetOf(context, written);
  if (!target.known) return [];
  const before = elementsBefore(context, written);
  const start = context.scenario.under(before.map((element) => formatElement(context.network, element)));
  const changes: Change[] = [];
  let now: Scenario = start;
  for (const { address, prefix } of networksBehind(context, written, hop.out)) {
    if (written.device.sourceNat.some((nat) => nat.out === hop.out && covers(nat.from, address))) continue;
    if (prefix.address.family !== target.address.family) continue;
    const edit = repairOf(now, {
      device: written.device.index,
      vrf: context.network.candidates.table[written.candidate],
      source: address,
      destination: target.address,
      protocol: "icmp",
      port: null,
    });
    const outcome = edit && now.afterEdit(edit);
    if (!edit || !outcome?.ok) continue;
    changes.push(...edit.changes);
    now = outcome.scenario;
  }
  if (changes.length === 0) return [];
  const places = [...new Set(changes.flatMap((change) => ("device" in change ? [change.device] : [])))];
  const labels = places.map((id) => context.network.devices[context.network.deviceIndex.get(id) ?? 0].label);
  const when = before.length ? "when no preferred route is left" : "now";
  return [
    {
      kind: "other-end",
      why: `Traffic on this route gets no reply ${when}: ${labels.join(" and ")} ${labels.length > 1 ? "lack" : "lacks"} a route back.`,
      edit: { label: `Add the return path on ${labels.join(" and ")}`, changes },
    },
  ];
}

/** Elements that must fail before a standby route carries traffic: the exits of the active routes to its destination.
 * */
function elementsBefore(context: Context, written: Written): ElementNumber[] {
  if (written.state !== "standby") return [];
  return context.routes
    .of(written.device.index)
    .filter((w) => w.state === "in-use" && samePrefix(w.to, written.to))
    .flatMap((w) => w.hops.map((hop) => interfaceElement(context.network, hop.out)));
}

function covers(prefixes: readonly Prefix[] | null, address: Address): boolean {
  return prefixes === null || prefixes.some((prefix) => containsAddress(prefix, address));
}

/** Networks that the device is attached to, away from its exits; transfer networks of two addresses left out. */
function networksBehind(context: Context, written: Written, out: number): Attachment[] {
  const { network } = context;
  const exits = new Set(
    context.routes
      .of(written.device.index)
      .filter((w) => w.to.length === 0)
      .flatMap((w) => w.hops.map((hop) => hop.out)),
  );
  const family = written.to.address.family;
  const found: Attachment[] = [];
  for (const a of context.attachmentsOf(written.device.index)) {
    if (a.interface === out || exits.has(a.interface)) continue;
    if (a.prefix.address.family !== family || (family === 4 && a.prefix.length >= 30)) continue;
    if (network.interfaces.link[a.interface] < 0) continue;
    if (!found.some(({ prefix }) => samePrefix(prefix, a.prefix))) found.push(a);
  }
  return found;
}

/** Routes to the same destination through each other neighbor that forwards, less preferred than every existing route.
 * */
function floatingTwins(context: Context, written: Written): Companion[] {
  const { network } = context;
  const own = context.attachmentsOf(written.device.index);
  const family = written.to.address.family;
  const alike = context.routes
    .of(written.device.index)
    .filter((w) => w.table === null && samePrefix(w.to, written.to));
  const used = new Set(alike.flatMap((w) => (w.route.via ? [w.route.via] : [])));
  const exits = new Set(written.hops.map((hop) => hop.out));
  const neighbours = context.attachments.filter((a) => {
    const role = network.devices[a.device].role;
    if (a.device === written.device.index || role === "host" || role === "internet") return false;
    if (a.address.family !== family || used.has(formatAddress(a.address))) return false;
    return own.some(
      (o) =>
        !exits.has(o.interface) &&
        network.interfaces.link[o.interface] >= 0 &&
        network.interfaces.link[o.interface] === network.interfaces.link[a.interface] &&
        containsAddress(o.prefix, a.address),
    );
  });
  const { staticDistance, interfaceRequired } = written.device.profile;
  const cut = written.hops.map((hop) => interfaceElement(network, hop.out));
  const target = targetOf(context, written);
  return neighbours.flatMap((a): Companion[] => {
    const twin: StaticRoute = { to: written.route.to, via: formatAddress(a.address) };
    if (written.route.vrf) twin.vrf = written.route.vrf;
    if (interfaceRequired) {
      const o = own.find(
        (x) => network.interfaces.link[x.interface] === network.interfaces.link[a.interface],
      );
      if (o) twin.out = network.interfaces.names[o.interface];
    }
    if (staticDistance === null) {
      twin.metric = Math.max(...alike.map((w) => w.route.metric ?? 0)) + 10;
    } else {
      const highest = Math.max(...alike.map((w) => w.route.distance ?? staticDistance));
      if (highest >= 254) return [];
      twin.distance = Math.min(254, highest + 10);
    }
    // Where the neighbour comes back through the same device, or gets nowhere, the twin would not help.
    const { world } = context.settle(cut);
    const walk = context.walkFrom(a.device, target.address, world);
    if (walk.hops.some((h) => h.device === written.device.index)) return [];
    if (target.known && walk.result !== "delivered") return [];
    const neighbour = network.devices[a.device];
    const last = staticDistance === null ? `metric ${twin.metric}` : `distance ${twin.distance}`;
    return [
      {
        kind: "floating",
        why: `Standby through ${neighbour.label} with ${last}. It takes over when no preferred route is left.`,
        edit: {
          label: `Add floating ${describeRoute(twin)} on ${written.device.label}`,
          changes: [addRoute(written.device.id, twin)],
        },
      },
    ];
  });
}

/** An address that the route leads to: a flow's, an interface's, or else the first of the destination. */
function targetOf(context: Context, written: Written): { address: Address; known: boolean } {
  // A standby route needs the same companions as the route preferred over it.
  const alike = new Set(
    context.routes
      .of(written.device.index)
      .filter((w) => samePrefix(w.to, written.to))
      .map((w) => w.candidate),
  );
  const flow = context.flows.find(({ trip }) =>
    trip.branches.some((b) => b.outbound.hops.some((hop) => alike.has(hop.candidate))),
  );
  if (flow) return { address: flow.question.destination, known: true };
  const inside =
    written.to.length > 0
      ? context.subnets.within(written.to).find((a) => a.device !== written.device.index)
      : undefined;
  return inside ? { address: inside.address, known: true } : { address: written.to.address, known: false };
}

/** A watch that withdraws the route when the far side dies: BFD on both ends, or a probe of something beyond. */
function watchers(context: Context, written: Written): Companion[] {
  if (written.route.watch) return [];
  const found: Companion[] = [];
  const bfd = bfdBothEnds(context, written);
  if (bfd) {
    found.push({
      kind: "watch",
      why: "A BFD session on both ends withdraws the route within a second if the neighbor stops responding while the interface stays up.",
      edit: bfd,
    });
  }
  const probe = probeBeyond(context, written);
  if (probe) found.push(probe);
  return found;
}

/** If the route is wider than the networks behind the neighbor, a discard route there breaks the loop. */
function discards(context: Context, written: Written): Companion[] {
  const next = context.nextDevice(written);
  if (next < 0 || written.to.length === 0) return [];
  const far = context.network.devices[next];
  if (far.role === "host" || far.role === "internet" || far.role === "provider") return [];
  const inside = context.subnets.within(written.to);
  if (inside.some((a) => samePrefix(a.prefix, written.to)) || inside.length === 0) return [];
  const known = context.routes.of(far.index).some((w) => w.table === null && samePrefix(w.to, written.to));
  if (known) return [];
  const route: StaticRoute = { to: formatPrefix(written.to), discard: "drop" };
  return [
    {
      kind: "discard",
      why: `${far.label} discards traffic to unused addresses of ${route.to} instead of returning it on its default route.`,
      edit: { label: `Discard the rest of ${route.to} on ${far.label}`, changes: [addRoute(far.id, route)] },
    },
  ];
}
