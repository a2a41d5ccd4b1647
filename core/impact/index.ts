export * from "./flow-changes.ts";
export * from "./impact.ts";
export * from "./range-groups.ts";
export * from "./route-outcome.ts";
export * from "./way-back.ts";
