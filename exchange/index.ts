export type { DeviceFacts, LineFate } from "./facts/index.ts";
export type { InputFile } from "./readers/index.ts";
export { type Readings, readFiles } from "./readings.ts";
export { type Rebuilt, rebuildPlan } from "./rebuild/plan.ts";
