import type { AskName } from "./asks.ts";

/** Queries that may be slow; all others answer within a keystroke. Separate from the answers, which only a worker or
 * the server loads. */
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
