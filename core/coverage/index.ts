export * from "./coverage.ts";
export * from "./difference.ts";
export * from "./outcomes.ts";
export * from "./ranges.ts";
export * from "./suspects.ts";
