import { formatAddress } from "../address/index.ts";
import type { Network } from "../network/index.ts";
import { carriersOf, type GatewayRecord, type Hop, type Trip, type Walk, type World } from "../walk/index.ts";
import { decisionText, dropText } from "./drops.ts";
import { linkName } from "./interfaces.ts";
import { reasonFor, routeText } from "./routes.ts";

/** What a flow does now, as a headline, and why, as sentences. */
export interface Explanation {
  readonly headline: string;
  readonly sentences: readonly string[];
}

/** Explains a flow under conditions compared with the healthy network. `underWay`: during an outage, when failures may
 * not have been detected yet. */
export function explainTrip(
  gateways: readonly GatewayRecord[],
  healthy: { world: World; trip: Trip },
  now: { world: World; trip: Trip },
  underWay = false,
): Explanation {
  const sentences: string[] = [];
  const carriers = (trip: Trip) => carrierText(gateways, trip);
  const conditions = now.world.state.failed.length > 0;
  const { outbound, reply } = now.trip.worst;

  if (conditions) {
    const before = carriers(healthy.trip);
    const after = carriers(now.trip);
    if (before !== after && before !== "") {
      sentences.push(`With no failures, it is ${before}.`);
    }
    const turned = divergence(healthy.trip.worst.outbound, outbound) ?? backTurn(healthy.trip, now.trip);
    if (turned) sentences.push(...divergenceSentences(healthy.world, now.world, turned));
  }
  if (outbound.drop) {
    sentences.push(sentence(now.world, dropText(now.world.state, outbound, outbound.drop)));
    if (conditions && silent(healthy.trip.worst.outbound, outbound)) {
      sentences.push(
        underWay
          ? "The failure is not detected yet: every route on the forward path is still active."
          : "Undetected failure: every route on the forward path stays active, so nothing takes over.",
      );
    }
  } else if (reply?.drop) {
    sentences.push(
      `The packet arrives, but the reply is lost: ${dropText(now.world.state, reply, reply.drop)}.`,
    );
  } else if (now.trip.branches.some((branch) => branch.symmetric === false)) {
    sentences.push(asymmetry(now.world, now.trip));
  }
  const assumed = now.trip.branches.flatMap(({ outbound: walk }) =>
    walk.assumed && walk.packet ? [formatAddress(walk.packet.destination)] : [],
  );
  if (assumed.length > 0) sentences.push(`Assuming a host at ${[...new Set(assumed)].join(", ")}.`);
  sentences.push(...allowances(now.world, outbound));
  if (now.trip.branches.length > 1) {
    sentences.push(
      `The load is shared over ${now.trip.branches.length} paths${sharesText(now.trip)}; the worst one is shown.`,
    );
  }
  return { headline: headline(now.trip, carriers(now.trip)), sentences };
}

/** The policy decisions along the path that allowed a packet. */
function allowances({ state }: World, { hops }: Walk): string[] {
  const { devices } = state.network;
  const passed = hops.flatMap(({ device, decision }) =>
    decision?.allows ? [`${devices[device].id} (${decisionText(decision)})`] : [],
  );
  return passed.length > 0 ? [`Allowed by the policy of ${passed.join(", ")}.`] : [];
}

/** By which gateways a flow leaves: "carried by A, then B", or "shared by A and B" where equal routes part; "" for none. */
function carrierText(gateways: readonly GatewayRecord[], { branches }: Trip): string {
  const ways = branches.map(({ outbound }) =>
    carriersOf(gateways, [outbound])
      .map((g) => gateways[g].label)
      .join(", then "),
  );
  const different = [...new Set(ways)].filter((way) => way !== "");
  if (different.length === 0) return "";
  return different.length === 1
    ? `carried by ${different[0]}`
    : `shared by ${different.slice(0, -1).join(", ")} and ${different[different.length - 1]}`;
}

/** The shares of several paths, if they are not equal. */
function sharesText({ branches }: Trip): string {
  const shares = [...new Set(branches.map(({ outbound }) => outbound))].map(({ share }) => share);
  if (shares.every((share) => Math.abs(share - shares[0]) < 1e-9)) return "";
  const parts = shares.map((share) => `${Number((share * 100).toFixed(1))} %`);
  return ` (${parts.slice(0, -1).join(", ")} and ${parts[parts.length - 1]})`;
}

function headline(trip: Trip, carriers: string): string {
  if (trip.verdict === "unknown") return "Not modeled beyond an outlined device";
  if (trip.verdict === "one-way") return "It arrives, but gets no reply";
  if (trip.verdict === "fails")
    return trip.worst.outbound.result === "looped" ? "It loops" : "It does not arrive";
  return carriers === "" ? "It works" : `${carriers[0].toUpperCase()}${carriers.slice(1)}`;
}

/** Capitalizes a sentence unless it starts with a device id, which keeps its spelling. */
function sentence(world: World, text: string): string {
  const startsWithDevice = world.state.network.deviceIndex.has(text.split(" ")[0]);
  return `${startsWithDevice ? text[0] : text[0].toUpperCase()}${text.slice(1)}.`;
}

interface Divergence {
  before: Hop;
  after: Hop;
}

/** The first device at which a packet goes another way than it did. */
function divergence(before: Walk, after: Walk): Divergence | null {
  for (let i = 0; i < before.hops.length && i < after.hops.length; i++) {
    const [a, b] = [before.hops[i], after.hops[i]];
    if (a.device !== b.device) return null;
    if (a.candidate !== b.candidate) return { before: a, after: b };
  }
  return null;
}

function backTurn(healthy: Trip, now: Trip): Divergence | null {
  const [before, after] = [healthy.worst.reply, now.worst.reply];
  return before && after ? divergence(before, after) : null;
}

function divergenceSentences(healthy: World, now: World, turn: Divergence): string[] {
  const { network } = now.state;
  const device = network.devices[turn.before.device];
  const lost = turn.before.candidate;
  if (lost < 0) return [];
  const reason = reasonFor(now.tablesOf(device.index), now.state, lost);
  const first = reason
    ? `On ${device.id} the route ${routeText(network, lost)} is no longer active: ${reason.text}.`
    : `On ${device.id} the route ${routeText(network, lost)} is no longer used.`;
  if (turn.after.candidate < 0) return [first];
  const stood = reasonFor(healthy.tablesOf(device.index), healthy.state, turn.after.candidate);
  const role = stood?.code.startsWith("beaten") ? ", which was standby," : "";
  return [first, `The route ${routeText(network, turn.after.candidate)}${role} took over.`];
}

/** Whether the packet died without any device choosing another route on the way. */
function silent(before: Walk, after: Walk): boolean {
  const died = after.drop?.code;
  if (died !== "link-dead" && died !== "neighbour-silent" && died !== "host-not-listening") return false;
  return after.hops.every(
    (hop, i) => before.hops[i]?.device === hop.device && before.hops[i].candidate === hop.candidate,
  );
}

function asymmetry(world: World, trip: Trip): string {
  const { network } = world.state;
  const names = (walk: Walk) => walk.hops.map((hop) => network.devices[hop.device].id);
  const { outbound, reply } = trip.branches.find((branch) => branch.symmetric === false) ?? trip.worst;
  const over = (walk: Walk) => {
    const between = names(walk).slice(1, -1);
    return between.length ? `over ${between.join(", ")}` : "direct";
  };
  if (reply && names(outbound).join() === names(reply).reverse().join()) {
    const [there, back] = [linksOf(network, outbound), linksOf(network, reply)];
    const only = (one: readonly string[], other: readonly string[]) =>
      one.filter((name) => !other.includes(name)).join(", ");
    return `Forward and return path use different links: forward ${only(there, back)}; return ${only(back, there)}.`;
  }
  return `Forward and return path differ: forward ${over(outbound)}; return ${reply ? over(reply) : "lost"}.`;
}

function linksOf(network: Network, { hops }: Walk): string[] {
  return hops.flatMap(({ out }) => (out >= 0 ? [linkName(network, network.interfaces.link[out])] : []));
}
