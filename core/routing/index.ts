export * from "./attachment.ts";
export * from "./codes.ts";
export * from "./next-hops.ts";
export * from "./store.ts";
export * from "./tables.ts";
