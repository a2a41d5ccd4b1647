export * from "./attachments.ts";
export { compile } from "./compile.ts";
export * from "./elements.ts";
export * from "./network.ts";
export * from "./state.ts";
