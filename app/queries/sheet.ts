import { meetsExpectation, unsurvived } from "../../core/expectations/index.ts";
import { sweep } from "../../core/failures/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import { countPlan, type PlanCounts } from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";

/** A plan at a glance. */
export interface PlanSheet {
  counts: PlanCounts;
  /** Flows that work with nothing failed. */
  works: number;
  /** Flows that survive any one failure, those of their own ends left out (`OWN_ENDS_LEFT_OUT`). */
  survive: number;
}

/** What a plan holds, how many of its flows work, and how many survive any one failure. Time: a sweep to depth 1. */
export function sheetOf(model: Scenario): PlanSheet {
  const { plan, engine, gateways, network } = model;
  const questions = model.flows().map(({ question }) => question);
  const swept = sweep(engine, gateways, questions, 1);
  const works = questions.filter((question, i) => meetsExpectation(question, swept[i].nominal, 0));
  const survive = questions.filter(
    (question, i) =>
      meetsExpectation(question, swept[i].nominal, 0) && unsurvived(network, question, swept[i]).length === 0,
  );
  return { counts: countPlan(plan), works: works.length, survive: survive.length };
}

/** The role of each device, by its id: for the small drawing of a plan. */
export function rolesOf(plan: Plan): Record<string, string> {
  return Object.fromEntries(plan.devices.map((device) => [device.id, device.role]));
}
