export * from "./difference.ts";
export * from "./marks.ts";
export * from "./outage.ts";
export * from "./path.ts";
export * from "./plan.ts";
export * from "./sessions.ts";
export * from "./summary.ts";
export * from "./tables.ts";
