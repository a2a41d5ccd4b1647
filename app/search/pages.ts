/** The pages of a plan. */
export type PageName =
  | "exchange"
  | "exchange/devices"
  | "exchange/drift"
  | "exchange/rebuild"
  | "exchange/out"
  | "map"
  | "routes"
  | "desk"
  | "summaries"
  | "paths"
  | "report"
  | "time"
  | "outages"
  | "findings"
  | "changes"
  | "changes/words"
  | `changes/${number}`;
