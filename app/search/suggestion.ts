import type { PageName } from "./pages.ts";

/** One thing that a question may mean, and where it leads. */
export interface Suggestion {
  label: string;
  detail: string;
  /** Where it leads within the plan: a page with its own parameters. */
  page: PageName | "device";
  device?: string;
  params: Record<string, string>;
  /** Elements to fail or to restore. */
  fail?: string;
  restore?: string;
}
