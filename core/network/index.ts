export * from "./attachments.ts";
export { differing } from "./bytes.ts";
export { compile } from "./compile.ts";
export * from "./elements.ts";
export { forEachHolding, longestHolding, type Matching } from "./matching.ts";
export * from "./network.ts";
export * from "./state.ts";
