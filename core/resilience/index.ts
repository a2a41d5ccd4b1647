export * from "./sweep.ts";
