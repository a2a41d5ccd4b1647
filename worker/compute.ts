import { parentPort } from "node:worker_threads";
import type { Plan } from "../core/plan/index.ts";
import { type SweptFlow, sweepFlows } from "../core/reports/index.ts";
import { NetworkModel, type Scenario } from "../core/scenario/index.ts";

/** A piece for the thread to work out; `document` only where the thread does not have it yet. */
export interface Task {
  readonly key: string;
  readonly document: Plan | null;
  readonly down: string[];
  readonly depth: 1 | 2 | 3;
  readonly firstFlow: number;
  readonly endFlow: number;
  readonly part: number;
  readonly parts: number;
}

export type PieceMessage =
  | { kind: "progress"; covered: number; found: number }
  | { kind: "done"; covered: number; found: number; result: SweptFlow[] }
  | { kind: "failed"; message: string };

const TELL_EVERY_MS = 200;

let held: { key: string; plan: Plan; scenario: Scenario } | null = null;

function scenarioFor({ key, document }: Task) {
  if (held?.key !== key) {
    if (!document) throw new Error("the plan has not been sent");
    held = { key, plan: document, scenario: NetworkModel.compile(document) };
  }
  return held;
}

/** The thread: one piece after the other, with a word on how far it is a few times a second. */
parentPort?.on("message", (task: Task) => {
  const tell = (told: PieceMessage) => parentPort?.postMessage(told);
  try {
    const { plan, scenario } = scenarioFor(task);
    const { engine, gateways } = scenario.under(task.down);
    let [covered, found, last] = [0, 0, performance.now()];
    const result = sweepFlows(
      engine,
      gateways,
      task.depth,
      (c, f) => {
        [covered, found] = [c, f];
        if (performance.now() - last > TELL_EVERY_MS) {
          last = performance.now();
          tell({ kind: "progress", covered, found });
        }
        return true;
      },
      plan.flows.slice(task.firstFlow, task.endFlow),
      { number: task.part, of: task.parts },
    );
    tell({ kind: "done", covered, found: countOf(result), result });
  } catch (error) {
    tell({ kind: "failed", message: error instanceof Error ? error.message : String(error) });
  }
});

function countOf(result: readonly SweptFlow[]): number {
  return result.reduce((sum, { swept }) => sum + swept.failures.length, 0);
}
