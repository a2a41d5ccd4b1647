export * from "./advice.ts";
export * from "./drops.ts";
export * from "./durations.ts";
export * from "./events.ts";
export * from "./interfaces.ts";
export * from "./routes.ts";
export * from "./sessions.ts";
export * from "./trips.ts";
