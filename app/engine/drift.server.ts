import { type Drift, driftOf } from "../../exchange/drift.ts";
import type { DeviceFacts } from "../../exchange/facts/index.ts";
import { newestReadings } from "../../server/readings.ts";
import { modelAt } from "./page.server.ts";

/** Where what devices said last differs from a revision, under what is down; and when each of them was read. */
export async function driftAt(
  plan: string,
  revision: number,
  down: readonly string[],
): Promise<Drift & { readAt: { device: string; at: Date }[] }> {
  const readings = await newestReadings<DeviceFacts>(plan, null);
  const readAt = readings.map(({ device, readAt: at }) => ({ device, at }));
  if (readings.length === 0) return { differences: [], compared: [], readAt };
  const model = (await modelAt(plan, revision)).under(down);
  return { ...driftOf(model, { devices: readings.map(({ facts }) => ({ facts, told: null })) }), readAt };
}
