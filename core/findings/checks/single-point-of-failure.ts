import { elementParts, formatElement } from "../../network/index.ts";
import { sweep } from "../../outage/index.ts";
import type { Check, Report } from "../check.ts";
import type { AskedFlow, Context } from "../context.ts";
import { pathEvidence as path } from "../finding.ts";

/** A failure, or so many at once, that a flow must survive and does not. */
export const singlePointOfFailure: Check = {
  code: "single-point-of-failure",
  title: "A flow does not survive a failure",
  consequence: "on-failure",
  severity: "error",
  run: (context) =>
    context.flows.flatMap((asked, i): Report[] => {
      const survive = asked.flow.expect?.survive ?? 0;
      if (survive === 0 || asked.trip.verdict !== "works") return [];
      const depth = Math.min(3, survive) as 1 | 2 | 3;
      const swept =
        depth === 1 ? context.sweep[i] : sweep(context.engine, context.gateways, [asked.question], depth)[0];
      const deadly = swept.failures.filter(
        (f) => f.verdict !== "works" && !f.failed.some((e) => isOwnEnd(context, asked, e)),
      );
      if (deadly.length === 0) return [];
      const named = deadly.map((f) => f.failed.map((e) => formatElement(context.network, e)));
      const shown = named.slice(0, 6).map((refs) => refs.join(" with "));
      return [
        {
          device: null,
          subject: asked.flow.id,
          text: `${asked.flow.id} must survive ${survive === 1 ? "any one failure" : `any ${survive} failures`}, and does not survive ${shown.join(", ")}${named.length > shown.length ? ` and ${named.length - shown.length} more` : ""}.`,
          evidence: named.map((refs) => path(asked.flow.id, refs)),
        },
      ];
    }),
};

/** Whether an element is the sender or the receiver, or is attached to one of them: nothing could help there. */
function isOwnEnd(context: Context, { trip }: AskedFlow, element: number): boolean {
  const { network } = context;
  const { interfaces, links } = network;
  const { hops } = trip.worst.outbound;
  const ends = [hops[0].device, hops[hops.length - 1].device];
  const { kind, index } = elementParts(network, element);
  if (kind === "device") return ends.includes(index);
  if (kind === "watch") return false;
  if (kind === "interface") {
    const link = interfaces.link[index];
    return ends.includes(interfaces.device[index]) || (link >= 0 && touches(link));
  }
  return touches(index);

  function touches(link: number): boolean {
    for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
      if (ends.includes(interfaces.device[links.ends[e]])) return true;
    }
    return false;
  }
}
