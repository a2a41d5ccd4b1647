import { formatAddress } from "../../address/index.ts";
import { addressesOf, formatElement, interfaceElement, linkElement } from "../../network/index.ts";
import { describeRoute, type Probe } from "../../plan/index.ts";
import { flatTrips, type Verdict, type World, walkBothWays } from "../../walk/index.ts";
import type { Check } from "../check.ts";
import { addWatch, type Context, routeChange, type TracedFlow } from "../context.ts";
import { freshName } from "../fixes/bfd.ts";
import { type Pair, pairsOf } from "../pairs.ts";

/**
 * A failure beyond the first hop that the primary does not notice, though the backup would carry: no watch
 * looks that far, or none looks at all.
 */
export const watchFirstHopOnly: Check = {
  code: "watch-first-hop-only",
  title: "A watch checks only the first hop",
  consequence: "on-failure",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) =>
    pairsOf(context).flatMap((pair) =>
      context.flowsBy(pair.primary.candidate).flatMap((asked) => {
        const found = unnoticed(context, pair, asked);
        if (!found) return [];
        const { primary } = pair;
        const ref = formatElement(context.network, linkElement(context.network, found.link));
        const watch = primary.route.watch;
        return [
          {
            device: primary.device.id,
            subject: `${asked.flow.id} by ${describeRoute(primary.route)}`,
            text: `If ${ref} fails, flow ${asked.flow.id} is lost although the backup on ${primary.device.id} could carry it: ${watch ? `the watch ${watch} does not reach that far` : "no watch checks beyond the first hop"}.`,
            evidence: [
              { kind: "path" as const, flow: asked.flow.id, failed: [ref] },
              context.routeEvidence(primary),
            ],
            fixes: probeFixes(context, pair, asked, found.beyond),
          },
        ];
      }),
    ),
};

/** A link of the flow's way beyond the first hop whose failure kills the flow, though the backup would carry it. */
function unnoticed(
  context: Context,
  { primary, backup }: Pair,
  asked: TracedFlow,
): { link: number; beyond: number[] } | null {
  const { network } = context;
  if (asked.trip.verdict !== "works") return null;
  const { hops } = asked.trip.worst.outbound;
  const at = hops.findIndex((hop) => hop.candidate === primary.candidate);
  const [exit] = primary.hops;
  if (at < 0 || !exit) return null;
  for (let n = at + 1; n < hops.length; n++) {
    const link = hops[n].out >= 0 ? network.interfaces.link[hops[n].out] : -1;
    if (link < 0 || link >= network.links.planned) continue;
    const failed = linkElement(network, link);
    const settled = context.settle([failed]);
    if (settled.flapping.length || verdictIn(settled.world, asked) === "works") continue;
    // Would the backup carry, if the primary were withdrawn?
    const { world } = context.settle([failed, interfaceElement(network, exit.out)]);
    if (verdictIn(world, asked) !== "works") continue;
    const forced = walkBothWays(world, asked.question);
    const took = forced.worst.outbound.hops.some((hop) => hop.candidate === backup.candidate);
    if (took) return { link, beyond: hops.slice(n + 1).map((hop) => hop.device) };
  }
  return null;
}

function verdictIn(world: World, { question }: TracedFlow): Verdict {
  return flatTrips(world.state.network).verdictOf(world, question);
}

/** A probe pinned to the primary's exit, of an address beyond the failure that no flow uses. */
function probeFixes(context: Context, { primary }: Pair, asked: TracedFlow, beyond: readonly number[]) {
  const { network } = context;
  const [exit] = primary.hops;
  const family = asked.question.destination.family;
  const used = context.once(
    "destinations of flows",
    () => new Set(context.flows.map(({ question }) => formatAddress(question.destination))),
  );
  const targets = beyond.flatMap((d) => {
    const list: string[] = [];
    for (let i = network.devices[d].firstInterface; i < network.devices[d].endInterface; i++) {
      list.push(
        ...addressesOf(network, i, family)
          .map(formatAddress)
          .filter((a) => !used.has(a)),
      );
    }
    return list;
  });
  const taken = context.deviceOf(primary.device).watches.map((w) => w.id);
  return targets.slice(0, 4).map((target) => {
    const probe: Probe = {
      id: freshName("far", taken),
      kind: "probe",
      target,
      out: network.interfaces.names[exit.out],
      ...(exit.address ? { via: formatAddress(exit.address) } : {}),
      intervalMs: 1000,
      timeoutMs: 500,
      failAfter: 2,
      recoverAfter: 2,
    };
    return {
      label: `Probe ${target} through ${probe.out} and withdraw ${describeRoute(primary.route)} while there is no reply`,
      changes: [
        addWatch(primary.device.id, probe),
        routeChange(primary, { ...primary.route, watch: probe.id }),
      ],
    };
  });
}
