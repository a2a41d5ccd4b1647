/** The pages of a plan. */
export type PageName =
  | "exchange"
  | "map"
  | "routes"
  | "desk"
  | "summaries"
  | "paths"
  | "report"
  | "time"
  | "outages"
  | "findings"
  | "changes";
