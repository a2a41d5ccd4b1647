/** The pages of a plan. */
export type PageName =
  | "import"
  | "topology"
  | "polling"
  | "drift"
  | "export"
  | "map"
  | "findings"
  | "routes"
  | "add-routes"
  | "summaries"
  | "paths"
  | "failures"
  | "timeline"
  | "failure-report"
  | "changes"
  | "changes/templates"
  | `changes/${number}`;
