import type { Edit } from "../plan/index.ts";
import type { Context } from "./context.ts";
import type { Consequence, Finding, Severity } from "./finding.ts";

/** What a check reports: a finding whose fixes are yet to be proven. */
export interface Report extends Omit<Finding, "code" | "severity" | "fixes" | "dismissed"> {
  readonly severity?: Severity;
  /** Costly ones are looked for only when fixes are wanted. */
  readonly fixes?: readonly Edit[] | (() => readonly Edit[]);
}

export interface Check {
  readonly code: string;
  /** The problem, as the heading over all its findings. */
  readonly title: string;
  readonly consequence: Consequence;
  readonly severity: Severity;
  /** Its fixes must change nothing for any address from anywhere: proven over the whole space (rule 11). */
  readonly fixesChangeNothing?: boolean;
  /** The finding depends on its device's own routes only, so a fix can be verified on that device alone. */
  readonly ofOwnRoutes?: boolean;
  run(context: Context): Report[];
}
