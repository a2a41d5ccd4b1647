export type { Outcome } from "../walk/index.ts";
export { breakersOf } from "./breakers.ts";
export * from "./room.ts";
export * from "./sweep.ts";
