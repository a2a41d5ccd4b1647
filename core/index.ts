/** The public interface of the core, in the order of its README. Modules of the product import directly from the
 * folders. */

export { sweep } from "./failures/index.ts";
export { type Finding, findAll } from "./findings/index.ts";
export { type Impact, impactOf } from "./impact/index.ts";
export { applyEdit, differencePlans, type Edit, invertEdit, type Plan, readPlan } from "./plan/index.ts";
export { lookupReport, tableReport } from "./reports/index.ts";
export { NetworkModel, Scenario } from "./scenario/index.ts";
export { type Runbook, runbookOf } from "./steps/index.ts";
export { simulate, timelineOf } from "./timeline/index.ts";
export { askFrom, type Question, type Trip, type Walk } from "./walk/index.ts";
