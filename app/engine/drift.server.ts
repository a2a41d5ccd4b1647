import { type Drift, driftOf } from "../../exchange/drift.ts";
import type { DeviceFacts } from "../../exchange/facts/index.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { newestReadings } from "../../server/readings.ts";
import { modelAt } from "./page.server.ts";

interface DriftNow extends Drift {
  /** What each device said last. */
  said: DeviceFacts[];
  /** When each of them was read. */
  readAt: { device: string; at: Date }[];
}

/** Differences between the latest readings of devices and a revision, under the failed elements. */
export async function driftAt(
  plan: ReadablePlan,
  revision: number,
  down: readonly string[],
): Promise<DriftNow> {
  const readings = await newestReadings<DeviceFacts>(plan, null);
  const readAt = readings.map(({ device, readAt: at }) => ({ device, at }));
  const said = readings.map(({ facts }) => facts);
  if (said.length === 0) return { differences: [], ignored: [], compared: [], said, readAt };
  const model = (await modelAt(plan, revision)).under(down);
  return { ...driftOf(model, said), said, readAt };
}
