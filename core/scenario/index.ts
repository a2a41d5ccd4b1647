export * from "./scenario.ts";
