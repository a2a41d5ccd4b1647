import type { DeviceRecord, Network } from "../network/index.ts";

/** The order of preference among candidates of one destination (rule 5.1): lower distance, then source, then lower
 * metric, then document order; for device families without a distance, metric first. Negative: `a` is preferred over
 * `b`. Selection, tables and lookups all sort by this function. */
export function byPreference(
  { candidates }: Network,
  { profile }: DeviceRecord,
): (a: number, b: number) => number {
  const hasDistance = profile.staticDistance !== null;
  return (a, b) =>
    (hasDistance
      ? candidates.distance[a] - candidates.distance[b]
      : candidates.metric[a] - candidates.metric[b]) ||
    candidates.source[a] - candidates.source[b] ||
    candidates.metric[a] - candidates.metric[b] ||
    candidates.order[a] - candidates.order[b];
}
