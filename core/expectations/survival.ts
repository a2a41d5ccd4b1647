import type { FailureOutcome, Outcome } from "../failures/index.ts";
import type { Network } from "../network/index.ts";
import { doesAsExpected, type Question } from "../walk/index.ts";
import { endsOfFlow, type FlowEnds, isOwnEnd } from "./ends.ts";

/** Whether a set of failures counts: whether none of a flow's own ends is among them. */
export function counts(
  network: Network,
  ends: FlowEnds,
  { failed }: Pick<FailureOutcome, "failed">,
): boolean {
  return !failed.some((element) => isOwnEnd(network, ends, element));
}

/**
 * The failures of a sweep that a flow must survive and does not, its own ends left out. Empty for a flow that does
 * not work with nothing failed: it has nothing to survive.
 */
export function unsurvived<F extends FailureOutcome>(
  network: Network,
  question: Question,
  swept: { readonly nominal: Outcome; readonly failures: readonly F[] },
): F[] {
  if (!doesAsExpected(question, swept.nominal)) return [];
  const ends = endsOfFlow(network, question);
  return swept.failures.filter(
    (failure) => !doesAsExpected(question, failure) && counts(network, ends, failure),
  );
}
