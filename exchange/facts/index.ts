export * from "./collector.ts";
export * from "./facts.ts";
export { readingOf } from "./prefixes.ts";
