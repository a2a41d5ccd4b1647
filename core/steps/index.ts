export { BETWEEN_DEVICES } from "./atoms.ts";
export { type Check, type FlowCheck, mannerOf, type TableCheck } from "./checks.ts";
export type { Helpers } from "./helpers.ts";
export { type Preference, preferences } from "./order.ts";
export { type Outcome, type Runbook, type RunbookStep, runbookOf, type Visit } from "./runbook.ts";
export { planAfter, plansOf, planWith, stepCount } from "./stages.ts";
