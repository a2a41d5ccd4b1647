import { type ElementNumber, formatElement, interfaceElement, linkElement } from "../network/index.ts";
import { describeRoute } from "../plan/index.ts";
import { type DropCode, type Trip, walkBothWays } from "../walk/index.ts";
import { dropText } from "../words/index.ts";
import type { Context, TracedFlow } from "./context.ts";
import { type Pair, pairsOf } from "./pairs.ts";

/** A flow that leaves by a primary, after the primary's exit has failed. */
export interface Takeover extends Pair {
  readonly asked: TracedFlow;
  readonly failed: ElementNumber;
  readonly trip: Trip;
}

/** The result of each flow that leaves by a primary with a backup when the primary's link is cut. */
function takeoversOf(context: Context): readonly Takeover[] {
  return context.once("takeovers", () => findTakeovers(context));
}

function findTakeovers(context: Context): Takeover[] {
  const { network } = context;
  return pairsOf(context).flatMap((pair): Takeover[] => {
    const [hop] = pair.primary.hops;
    if (!hop) return [];
    const link = network.interfaces.link[hop.out];
    const cut =
      link >= 0 && link < network.links.planned
        ? linkElement(network, link)
        : interfaceElement(network, hop.out);
    return context.flowsBy(pair.primary.candidate).flatMap((asked): Takeover[] => {
      if (asked.trip.verdict !== "works") return [];
      const { world } = context.settle([cut]);
      const trip = walkBothWays(world, asked.question);
      const took = trip.branches.some((b) =>
        b.outbound.hops.some((h) => h.candidate === pair.backup.candidate),
      );
      return took ? [{ ...pair, asked, failed: cut, trip }] : [];
    });
  });
}

/** A takeover whose packets arrive and get no answer, and why. */
export interface Unanswered {
  /** Where the reply ends. */
  readonly device: string;
  readonly subject: string;
  /** What failed, and what became of the reply. */
  readonly failed: string;
  readonly because: string;
  readonly takeover: Takeover;
}

/** The takeovers whose reply ends in one of these ways. */
export function unansweredTakeovers(context: Context, codes: readonly DropCode[]): Unanswered[] {
  return takeoversOf(context).flatMap((takeover): Unanswered[] => {
    const { primary, backup, asked, failed, trip } = takeover;
    const { reply } = trip.worst;
    if (trip.verdict !== "one-way" || !reply?.drop || !codes.includes(reply.drop.code)) return [];
    return [
      {
        device: context.network.devices[reply.drop.device].id,
        subject: `${asked.flow.id} over ${describeRoute(backup.route)} of ${primary.device.id}`,
        failed: formatElement(context.network, failed),
        because: dropText(context.settle([failed]).world.state, reply, reply.drop),
        takeover,
      },
    ];
  });
}
