import type { Scenario } from "../../core/scenario/index.ts";
import type { View } from "../search/view.ts";
import { conditionsOf } from "./conditions.ts";
import { deviceAnswer } from "./device.ts";
import { findingsAnswer } from "./findings.ts";
import { frameOf } from "./frame.ts";
import { mapAnswer } from "./map.ts";
import { pathsAnswer } from "./paths.ts";
import { suggest } from "./question.ts";
import { routesAnswer } from "./routes.ts";
import { summariesAnswer } from "./summaries.ts";

/**
 * The questions that pages ask, by name. The server and the browser's worker answer them alike, from the
 * revision that is shown and the one that counts as approved.
 */
const answers = {
  map: (p: Scenario, v: View) => mapAnswer(p, v, v.asked),
  paths: (p: Scenario, v: View) => pathsAnswer(p, v, v.asked),
  routes: (p: Scenario, v: View, approved: Scenario) => routesAnswer(p, approved, v, v.routes),
  device: (p: Scenario, v: View, approved: Scenario) =>
    deviceAnswer(p, approved, v, { device: v.device, vrf: v.vrf, lookup: v.lookup }),
  findings: (p: Scenario, v: View) => findingsAnswer(p, v),
  summaries: (p: Scenario, v: View) => summariesAnswer(p, v, v.device, v.picked),
  frame: (p: Scenario, v: View) => frameOf(p, conditionsOf(p, v)),
  question: (p: Scenario, v: View) => suggest(p, v.text, v.down, v.device || undefined),
};

export type AnswerName = keyof typeof answers;
export const answerNames = Object.keys(answers) as readonly AnswerName[];
export type AnswerOf<N extends AnswerName> = ReturnType<(typeof answers)[N]>;

/** Answers a page's question about a plan. */
export function answer<N extends AnswerName>(
  name: N,
  plan: Scenario,
  approved: Scenario,
  view: View,
): AnswerOf<N> {
  return answers[name](plan, view, approved) as AnswerOf<N>;
}
