export * from "./changes.ts";
export * from "./check.ts";
export { checks } from "./checks/index.ts";

export { findAll } from "./find.ts";
export * from "./finding.ts";
export { remediesOf } from "./flow-remedies.ts";
