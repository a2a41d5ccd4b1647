import type { AskName } from "./asks.ts";

/**
 * What may take long; the rest answers within a keystroke. It stands apart from the answers, which only a worker or
 * the server loads.
 */
export const slowAsks: ReadonlySet<AskName> = new Set<AskName>([
  "companions",
  "findings",
  "findingsAfter",
  "costs",
  "remedies",
  "everywhere",
  "draft",
  "survival",
  "runbook",
  "timeline",
  "interfaceList",
  "exchange",
  "picture",
]);
