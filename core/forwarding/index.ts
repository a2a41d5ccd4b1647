export { type FlatTrips, type FlowOutcome, flatTrips, type Outcome } from "./flat/trips.ts";
export * from "./flow.ts";
export * from "./gateways.ts";
export { type InputSink, TripInputs } from "./inputs.ts";
export * from "./lookup.ts";
export * from "./packet.ts";
export * from "./source.ts";
export * from "./walk.ts";
export * from "./world.ts";
