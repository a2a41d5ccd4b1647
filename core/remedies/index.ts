export * from "./repair.ts";
