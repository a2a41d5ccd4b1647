export * from "./companion.ts";
export * from "./companions.ts";
export * from "./complete.ts";
export * from "./everywhere.ts";
export * from "./propose-flows.ts";
export * from "./propose-links.ts";
export * from "./route-line.ts";
export * from "./summaries.ts";
