import { OWN_ENDS_LEFT_OUT, surviveText, unsurvived } from "../../expectations/index.ts";
import { failuresOf } from "../../failures/index.ts";
import { formatElement } from "../../network/index.ts";
import type { Check, Report } from "../check.ts";
import { pathEvidence as path } from "../finding.ts";

/** A failure, or a set of failures up to the required number, that a flow must survive and does not. */
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
        depth === 1
          ? context.sweep[i]
          : failuresOf(context.engine, context.gateways, [asked.question], depth)[0];
      const deadly = unsurvived(context.network, asked.question, swept);
      if (deadly.length === 0) return [];
      const named = deadly.map((f) => f.failed.map((e) => formatElement(context.network, e)));
      const shown = named.slice(0, 6).map((refs) => refs.join(" with "));
      return [
        {
          device: null,
          subject: asked.flow.id,
          text: `Flow ${asked.flow.id} must survive ${surviveText(survive)}, ${OWN_ENDS_LEFT_OUT}. It does not survive ${shown.join(", ")}${named.length > shown.length ? ` and ${named.length - shown.length} more` : ""}.`,
          evidence: named.map((refs) => path(asked.flow.id, refs)),
        },
      ];
    }),
};
