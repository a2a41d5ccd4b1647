import type { Plan } from "../../core/plan/index.ts";
import { conditionsOf } from "./conditions.ts";
import { deviceAnswer } from "./device.ts";
import type { Prepared } from "./engines.ts";
import { prepare } from "./engines.ts";
import { frameOf } from "./frame.ts";
import { mapAnswer } from "./map.ts";
import { pathsAnswer } from "./paths.ts";
import { suggest } from "./question.ts";
import { routesAnswer } from "./routes.ts";
import type { View } from "./view.ts";

/** The questions that pages ask, by name. The server and the browser's worker answer them alike. */
const answers = {
  map: (p: Prepared, v: View) => mapAnswer(p, v.down, v.asked),
  paths: (p: Prepared, v: View) => pathsAnswer(p, v.down, v.asked),
  routes: (p: Prepared, v: View) => routesAnswer(p, v.down),
  device: (p: Prepared, v: View) =>
    deviceAnswer(p, v.down, { device: v.device, vrf: v.vrf, lookup: v.lookup }),
  frame: (p: Prepared, v: View) => frameOf(p, conditionsOf(p, v.down)),
  question: (p: Prepared, v: View) => suggest(p, v.text, v.down, v.device || undefined),
};

export type AnswerName = keyof typeof answers;
export type AnswerOf<N extends AnswerName> = ReturnType<(typeof answers)[N]>;

/** Answers a page's question about one revision of a plan. `plan` is read only where `key` is new. */
export function answer<N extends AnswerName>(name: N, plan: Plan, key: string, view: View): AnswerOf<N> {
  return answers[name](prepare(plan, key), view) as AnswerOf<N>;
}
