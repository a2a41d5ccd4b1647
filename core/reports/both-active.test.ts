import { describe, expect, it } from "vitest";
import { engineOf } from "../../tests/support/plans.ts";
import { pairOfFirewalls } from "../../tests/support/shared-plans.ts";
import { sweep } from "../failures/index.ts";
import { elementCount, findElement, formatElement } from "../network/index.ts";
import { settle } from "../settle/index.ts";
import { Outcomes, timelineOf } from "../timeline/index.ts";
import { askFrom } from "../walk/index.ts";
import { steadyPathReport } from "./index.ts";

/** Two firewalls with an exit each; their heartbeat fails together with another element. */
describe("rules 10.1 and 17: where both of a pair are active", () => {
  const plan = pairOfFirewalls({
    plan: {
      gateways: [
        { id: "by-a", at: "fwa/outside" },
        { id: "by-b", at: "fwb/outside" },
      ],
    },
  });
  const engine = engineOf(plan);
  const asked = askFrom(engine.network, plan.flows[0]);
  if (!asked.ok) throw new Error(asked.message);
  const { question } = asked;
  const heartbeat = findElement(engine.network, "link:hb") as number;
  const swept = sweep(engine, engine.gateways, [question], 2);
  const others = Array.from({ length: elementCount(engine.network) }, (_, e) => e).filter(
    (e) => e !== heartbeat,
  );

  it.each(others.map((e) => [formatElement(engine.network, e), e] as const))(
    "and %s has failed too, the steady state, the sweep and the end of the timeline name the same carriers",
    (_, element) => {
      const failed = [heartbeat, element].sort((a, b) => a - b);
      const report = steadyPathReport(settle(engine, failed), engine.gateways, question);
      const told = ({ verdict, carriers }: { verdict: string; carriers: readonly (number | string)[] }) => ({
        verdict,
        carriers: carriers.map((g) => (typeof g === "number" ? engine.gateways[g].id : g)).sort(),
      });
      const line = timelineOf(
        engine,
        new Outcomes(engine.gateways, [question], engine.healthy.world),
        [1],
        [{ atMs: 0, fail: failed, restore: [] }],
      );
      for (const spans of [line.flows[0].spans, line.flows[0].leastSpans]) {
        const last = spans.at(-1);
        expect(last && told(last)).toEqual(told(report));
        expect(last?.uncertain ?? false).toBe(report.uncertain ?? false);
      }
      const found = swept[0].failures.find((one) => one.failed.join() === failed.join());
      if (found) expect(told(found)).toEqual(told(report));
    },
  );
});
