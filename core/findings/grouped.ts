import { addTo } from "../collections/index.ts";

/** Things by what a key says of each, in their order. */
export function grouped<T, K>(items: readonly T[], key: (item: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const item of items) addTo(groups, key(item), item);
  return groups;
}
