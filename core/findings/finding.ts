import type { Edit } from "../plan/index.ts";

export const severities = ["error", "warning", "advice"] as const;
export type Severity = (typeof severities)[number];

/** What a finding means for traffic, the gravest first. */
export const consequences = ["lost", "inactive", "on-failure", "astray", "tidy"] as const;
export type Consequence = (typeof consequences)[number];

/** Something that can be opened: a route of a table, a flow's walk, a range, an element or an interface. */
export type Evidence =
  | { kind: "route"; device: string; to: string; via: string | null; out: string | null }
  | { kind: "path"; flow: string; failed: string[] }
  | { kind: "range"; device: string; prefix: string }
  | { kind: "interface"; interface: string }
  | { kind: "watch"; watch: string };

/** An edit that was run through the engine: it removes the finding and breaks no flow. */
export interface Fix {
  readonly label: string;
  readonly edit: Edit;
}

/** Something that is wrong, or could be better (rule 12). */
export interface Finding {
  readonly code: string;
  readonly severity: Severity;
  /** The device to fix; null if it is not specific to one. */
  readonly device: string | null;
  /** The object of the finding: a route, flow, watch or interface. Code, device and subject identify the finding. */
  readonly subject: string;
  readonly text: string;
  readonly evidence: Evidence[];
  readonly fixes: Fix[];
  /** Why the finding was accepted; missing if the plan has no such record. */
  readonly dismissed?: string;
}

/** A flow's walk as evidence, healthy or with elements down. */
export function pathEvidence(flow: string, failed: string[] = []): Evidence {
  return { kind: "path", flow, failed };
}
