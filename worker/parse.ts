import { NetworkModel, type Scenario } from "../core/scenario/index.ts";
import { driftOf } from "../exchange/drift.ts";
import type { DeviceFacts } from "../exchange/facts/index.ts";
import type { InputFile } from "../exchange/readers/index.ts";
import { NotRead } from "../live/failure.ts";
import { understood } from "../live/read.ts";
import type { ReadablePlan } from "../server/access/grants.ts";
import { documentOf, headOf } from "../server/plans.ts";

/** The answers of one device, and the plan that they are compared with. */
export interface Answers {
  readonly files: readonly InputFile[];
  readonly device: string;
  readonly plan: ReadablePlan;
}

/** The parsed readings and the reading's result; a message if nothing is understood. */
export type ReadAnswers =
  | {
      readonly facts: DeviceFacts;
      readonly end: { readonly told: string; readonly differences?: number; readonly lines: number };
    }
  | string;

/** Parses the answers of one device in this thread, and compares them with the current plan. */
export default async function parse({ files, device, plan }: Answers): Promise<ReadAnswers> {
  try {
    const { collector, lines } = understood(files, device);
    const facts = { ...collector.facts, device };
    const doubtful = lines.filter(({ fate }) => fate === "doubtful" || fate === "not-understood").length;
    const { told: named } = collector;
    const name = named !== null && named !== device ? `; its own name is ${named}` : "";
    const summary = `${facts.interfaces.length} interfaces, ${facts.routes.length} routes${doubtful ? `, ${doubtful} lines assumed or not understood` : ""}${name}`;
    const model = await modelOf(plan);
    const differences = model ? driftOf(model, [facts]).differences.length : undefined;
    return { facts, end: { told: summary, differences, lines: lines.length } };
  } catch (error) {
    if (error instanceof NotRead) return error.message;
    throw error;
  }
}

let held: { key: string; model: Scenario } | null = null;

/** The current plan, compiled; the last one is cached. */
async function modelOf(plan: ReadablePlan): Promise<Scenario | null> {
  const head = await headOf(plan);
  if (!head) return null;
  const key = `${plan} ${head.revision}`;
  if (held?.key !== key) {
    const document = await documentOf(plan, head.revision);
    if (!document) return null;
    held = { key, model: NetworkModel.compile(document) };
  }
  return held.model;
}
