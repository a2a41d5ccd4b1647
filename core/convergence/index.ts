export * from "./settle.ts";
export * from "./tunnels.ts";
export * from "./watches.ts";
