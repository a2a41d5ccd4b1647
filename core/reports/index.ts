export * from "./path.ts";
export * from "./plan.ts";
export * from "./tables.ts";
