import { counts, endsOfFlow } from "../../expectations/index.ts";
import { formatElement } from "../../network/index.ts";
import { breakingText } from "../../words/index.ts";
import type { Check, Report } from "../check.ts";
import { pathEvidence } from "../finding.ts";

/** A flow that must survive a failure and does, while all that is established on it breaks (rule 18). */
export const sessionsBreak: Check = {
  code: "sessions-break",
  title: "A failover breaks established sessions",
  consequence: "on-failure",
  severity: "advice",
  run: (context) =>
    context.flows.flatMap((asked, i): Report[] => {
      const { survive = 0 } = asked.flow.expect ?? {};
      if (survive === 0 || asked.question.protocol !== "tcp" || asked.trip.verdict !== "works") return [];
      const ends = endsOfFlow(context.network, asked.question);
      const broken = context.sweep[i].failures.filter(
        ({ sessions, failed }) =>
          sessions !== null && sessions !== "kept" && counts(context.network, ends, { failed }),
      );
      const [first] = broken;
      if (!first || first.sessions === null || first.sessions === "kept") return [];
      const refs = broken.map(({ failed }) => failed.map((e) => formatElement(context.network, e)));
      return [
        {
          device: null,
          subject: asked.flow.id,
          text: `Flow ${asked.flow.id} works again after ${refs[0].join(" with ")}${refs.length > 1 ? ` and ${refs.length - 1} other failures` : ""}, but established sessions are lost: ${breakingText(context.network, first.sessions)}.`,
          evidence: refs.map((failed) => pathEvidence(asked.flow.id, failed)),
        },
      ];
    }),
};
