import { addTo } from "../network/index.ts";

/** Things by what a key says of each, in their order. */
export function grouped<T>(items: readonly T[], key: (item: T) => number): Map<number, T[]> {
  const groups = new Map<number, T[]>();
  for (const item of items) addTo(groups, key(item), item);
  return groups;
}
