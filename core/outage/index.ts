export * from "./delays.ts";
export * from "./outcomes.ts";
export * from "./settle.ts";
export * from "./simulate.ts";
export * from "./sweep.ts";
export * from "./timeline.ts";
export * from "./tunnels.ts";
export * from "./watches.ts";
