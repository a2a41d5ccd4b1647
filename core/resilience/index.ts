export type { Outcome } from "../forwarding/index.ts";
export * from "./sweep.ts";
