export * from "./flow-changes.ts";
export { type Cost, costsOf, harmsAnything } from "./harm.ts";
export * from "./impact.ts";
export * from "./range-groups.ts";
export * from "./return-path.ts";
export * from "./route-outcome.ts";
export { RouteSteps } from "./route-steps.ts";
