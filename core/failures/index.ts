export type { Outcome } from "../walk/index.ts";
export { breakersOf } from "./breakers.ts";
export * from "./capacity.ts";
export * from "./sweep.ts";
