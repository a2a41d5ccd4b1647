export * from "./attachments.ts";
export { differing } from "./bytes.ts";
export { compile } from "./compile.ts";
export * from "./elements.ts";
export { addTo } from "./lists.ts";
export { forEachHolding, longestHolding, type Matching } from "./matching.ts";
export * from "./network.ts";
export { onceFor } from "./once-for.ts";
export * from "./state.ts";
