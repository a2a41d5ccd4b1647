export * from "./delays.ts";
export * from "./outcomes.ts";
export * from "./sessions.ts";
export * from "./simulate.ts";
export * from "./timeline.ts";
