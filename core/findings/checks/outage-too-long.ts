import { formatElement } from "../../network/index.ts";
import { mostSeconds, secondsText } from "../../words/index.ts";
import type { Check, Report } from "../check.ts";
import { pathEvidence as path } from "../finding.ts";

/** A failure that the flow survives leaves it dead for longer than is allowed. */
export const outageTooLong: Check = {
  code: "outage-too-long",
  title: "An outage is longer than allowed",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    context.flows.flatMap(({ flow }, i): Report[] => {
      const allowed = flow.expect?.maxOutageMs;
      if (allowed === undefined) return [];
      const long = context.sweep[i].failures.filter(
        (f) => f.verdict === "works" && (f.outageMs.max ?? Number.POSITIVE_INFINITY) > allowed,
      );
      if (long.length === 0) return [];
      const worst = long.reduce((a, b) =>
        (b.outageMs.max ?? Number.POSITIVE_INFINITY) > (a.outageMs.max ?? Number.POSITIVE_INFINITY) ? b : a,
      );
      const refs = worst.failed.map((e) => formatElement(context.network, e));
      const { max, unknown } = worst.outageMs;
      const longest = max === null ? "good" : `up to ${mostSeconds(max)} s`;
      const most = unknown
        ? "an unknown time, since a learned route states no time after which it is lost"
        : longest;
      return [
        {
          device: null,
          subject: flow.id,
          text: `Flow ${flow.id} may be down for ${secondsText(allowed)} s. If ${refs.join(" and ")} fails, it is down for ${most}${long.length > 1 ? `; ${long.length - 1} other failures exceed the limit too` : ""}.`,
          evidence: [path(flow.id, refs)],
        },
      ];
    }),
};
