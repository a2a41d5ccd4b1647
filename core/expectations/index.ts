export * from "./ends.ts";
export * from "./judge.ts";
export * from "./survival.ts";
