export * from "./collector.ts";
export * from "./facts.ts";
export { prefixesOf } from "./prefixes.ts";
