import { failuresOf } from "../../failures/index.ts";
import { formatElement } from "../../network/index.ts";
import { arrivalOf } from "../../walk/index.ts";
import { dropText } from "../../words/index.ts";
import type { Check, Report } from "../check.ts";
import type { Context, TracedFlow } from "../context.ts";
import { pathEvidence as path } from "../finding.ts";

/** A flow that must be denied and arrives, now or after a failure, or is lost for another reason. */
export const flowNotDenied: Check = {
  code: "flow-not-denied",
  title: "A flow that must be denied is not denied",
  consequence: "astray",
  severity: "error",
  run: (context) =>
    context.deniedFlows.flatMap((asked): Report[] => {
      const { flow, trip } = asked;
      const arrival = arrivalOf(trip);
      const report = (text: string, evidence: Report["evidence"]): Report[] => [
        { device: null, subject: flow.id, text: `Flow ${flow.id} must be denied, but it ${text}.`, evidence },
      ];
      if (arrival === "arrives") return report("arrives", [path(flow.id, [])]);
      if (arrival === "lost")
        return report(`is lost for another reason: ${lostBy(context, asked)}`, [path(flow.id, [])]);
      const arriving = failuresThatLetIn(context, asked);
      if (arriving.length === 0) return [];
      const shown = arriving.slice(0, 6).map((refs) => refs.join(" with "));
      const more = arriving.length > shown.length ? ` and ${arriving.length - shown.length} more` : "";
      const when =
        arriving.length === 1 ? `${shown[0]} fails` : `one of these fails: ${shown.join(", ")}${more}`;
      return report(
        `arrives if ${when}`,
        arriving.map((refs) => path(flow.id, refs)),
      );
    }),
};

function lostBy(context: Context, { trip }: TracedFlow): string {
  const { outbound } = trip.worst;
  return outbound.drop ? dropText(context.healthy.state, outbound, outbound.drop) : "it loops";
}

/** The sets of failures, to the depth that the flow must survive, under which it arrives; as references. */
function failuresThatLetIn(context: Context, { flow, question }: TracedFlow): string[][] {
  const depth = Math.min(3, Math.max(1, flow.expect?.survive ?? 1)) as 1 | 2 | 3;
  const [{ failures }] = failuresOf(context.engine, context.gateways, [question], depth);
  return failures
    .filter(({ arrival }) => arrival === "arrives")
    .map(({ failed }) => failed.map((element) => formatElement(context.network, element)));
}
