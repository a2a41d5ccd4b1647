export * from "./pairs.ts";
export { tunnelsNear, watchesNear } from "./readings.ts";
export * from "./settle.ts";
export * from "./tunnels.ts";
export * from "./virtual-routers.ts";
export * from "./watches.ts";
