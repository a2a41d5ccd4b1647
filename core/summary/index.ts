export * from "./summarise.ts";
