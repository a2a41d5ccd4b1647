import type { Flow } from "../plan/index.ts";
import { type Arrival, doesAsExpected, type Question, type Verdict } from "../walk/index.ts";
import { secondsText } from "../words/index.ts";

/** A flow in one case: with nothing failed, or with a set of failures. */
export interface Case {
  readonly verdict: Verdict;
  /** Gateway ids, in the order in which the packet leaves by them. */
  readonly carriers: readonly string[];
  readonly outageMs: { readonly min: number | null; readonly max: number | null };
  /** How many elements have failed. */
  readonly failures: number;
  /** Of a flow that must be denied. */
  readonly arrival?: Arrival;
  /** Whether one of the flow's own ends is among them: see `isOwnEnd`. */
  readonly ownEnd: boolean;
}

export interface Broken {
  readonly kind: "works" | "denied" | "survive" | "outage" | "carriers";
  readonly text: string;
}

/** The expectations of a flow that a case breaks. All judgments are made here. */
export function brokenExpectations(flow: Flow, { verdict, ...now }: Case): Broken[] {
  const { survive, maxOutageMs, carriers: wanted } = flow.expect ?? {};
  const broken: Broken[] = [];
  if (flow.expect?.verdict === "denied") {
    const met = now.failures === 0 ? now.arrival === "denied" : now.arrival !== "arrives";
    return met ? [] : [{ kind: "denied", text: "it must be denied" }];
  }
  if (verdict !== "works") {
    if (survive === undefined || now.ownEnd || now.failures > survive) return [];
    if (now.failures === 0) return [{ kind: "works", text: "it must work" }];
    return [{ kind: "survive", text: `it must survive ${surviveText(survive)}` }];
  }
  if (maxOutageMs !== undefined && (now.outageMs.max === null || now.outageMs.max > maxOutageMs)) {
    broken.push({ kind: "outage", text: `an outage may last ${secondsText(maxOutageMs)} s at most` });
  }
  if (wanted?.length && !now.carriers.some((id) => wanted.includes(id))) {
    broken.push({ kind: "carriers", text: `${wanted.join(" or ")} should carry it` });
  }
  return broken;
}

/** Whether a flow meets its expectation with nothing failed, or with up to the given number of failures. */
export function meetsExpectation(
  question: Question,
  outcome: { readonly verdict: Verdict; readonly arrival?: Arrival },
  failures: number,
): boolean {
  return question.mustBeDenied && failures === 0
    ? outcome.arrival === "denied"
    : doesAsExpected(question, outcome);
}

/** "any single failure", "any 2 failures". */
export function surviveText(survive: number): string {
  return survive === 1 ? "any single failure" : `any ${survive} failures`;
}
