export type { Altered } from "./altered.ts";
export * from "./difference.ts";
export * from "./outcomes.ts";
export * from "./ranges.ts";
export * from "./reachability.ts";
export * from "./suspects.ts";
