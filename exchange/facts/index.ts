export * from "./collector.ts";
export * from "./facts.ts";
