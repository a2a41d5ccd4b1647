export * from "./mend.ts";
