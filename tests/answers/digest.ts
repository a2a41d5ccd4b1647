import { createHash } from "node:crypto";
import { findAll } from "../../core/findings/index.ts";
import { fateElement, formatElement } from "../../core/network/index.ts";
import { sweep } from "../../core/resilience/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import type { AnsweredPlan } from "./plans.ts";

/** What is kept of a plan's answers: digests, and a few counts by which one sees what kind of plan it is. */
export interface Answers {
  readonly flows: number;
  readonly failures: number;
  readonly findings: number;
  readonly swept: string;
  readonly found: string;
}

/** Every answer of a plan's sweep and findings, with proven fixes, as digests of the whole output. */
export function answersOf({ plan, depth }: AnsweredPlan): Answers {
  const model = NetworkModel.compile(plan);
  const { network } = model;
  const asked = model.flows();
  const swept = sweep(
    model.engine,
    model.gateways,
    asked.map(({ question }) => question),
    depth,
  );
  const told = swept.map(({ nominal: { partly: _p, uncertain: _u, ...nominal }, failures }, i) => ({
    flow: asked[i].flow.id,
    nominal: { ...nominal, carriers: nominal.carriers.map((g) => model.gateways[g].id) },
    // Sites fail since; what fails by itself is answered as it was.
    failures: failures
      .filter(({ failed }) => failed.every((element) => element < fateElement(network, 0)))
      .map(({ partly: _p, uncertain: _u, sessions: _s, ...failure }) => ({
        ...failure,
        failed: failure.failed.map((element) => formatElement(network, element)),
        carriers: failure.carriers.map((g) => model.gateways[g].id),
      }))
      .sort((a, b) => (a.failed.join() < b.failed.join() ? -1 : 1)),
  }));
  const findings = findAll(model);
  return {
    flows: told.length,
    failures: told.reduce((sum, { failures }) => sum + failures.length, 0),
    findings: findings.length,
    swept: digest(told),
    found: digest(findings),
  };
}

function digest(value: unknown): string {
  return createHash("sha256").update(JSON.stringify(value)).digest("hex").slice(0, 16);
}
