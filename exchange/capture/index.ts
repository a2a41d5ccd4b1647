export * from "./conversation.ts";
export * from "./file.ts";
export * from "./observed.ts";
