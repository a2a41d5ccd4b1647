export { tunnelsNear, watchesNear } from "./readings.ts";
export * from "./settle.ts";
export * from "./tunnels.ts";
export * from "./watches.ts";
