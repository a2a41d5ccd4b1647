export * from "./attachment.ts";
export * from "./codes.ts";
export { tablesWithout } from "./derive.ts";
export * from "./device-tables.ts";
export * from "./next-hops.ts";
export * from "./preference.ts";
export * from "./store.ts";
export * from "./tables.ts";
export * from "./unlike.ts";
