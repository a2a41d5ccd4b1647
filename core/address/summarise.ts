import { containsPrefix, overlaps, type Prefix } from "./prefix.ts";
import { enclosing, exactCover, subtract } from "./prefix-set.ts";

/** A possible summary and the extra addresses it would cover. */
export interface Summary {
  /** The fewest prefixes that cover the same addresses and no others. */
  readonly exact: Prefix[];
  /** The best single prefix; null where both families are asked for at once. */
  readonly single: { readonly prefix: Prefix; readonly swallows: Prefix[] } | null;
}

/** Summarises prefixes (RFC 4632). `swallows` is what the single prefix covers besides, as few prefixes as can be. */
export function summarise(prefixes: readonly Prefix[]): Summary {
  const exact = exactCover(prefixes);
  const prefix = enclosing(exact);
  return { exact, single: prefix && { prefix, swallows: subtract(prefix, exact) } };
}

export interface Owned<T> {
  readonly prefix: Prefix;
  readonly by: T[];
}

/** Splits the addresses a summary swallows into owned and unowned ranges. */
export function splitByOwner<T>(
  swallows: readonly Prefix[],
  networks: readonly { prefix: Prefix; owner: T }[],
): { owned: Owned<T>[]; unowned: Prefix[] } {
  const owned = new Map<string, { prefix: Prefix; by: T[] }>();
  const unowned: Prefix[] = [];
  for (const prefix of swallows) {
    const inside = networks.filter((network) => overlaps(network.prefix, prefix));
    for (const { prefix: network, owner } of inside) {
      const piece = containsPrefix(network, prefix) ? prefix : network;
      const key = `${piece.address.w0} ${piece.address.w1} ${piece.address.w2} ${piece.address.w3}/${piece.length}`;
      const entry = owned.get(key) ?? { prefix: piece, by: [] };
      if (!entry.by.includes(owner)) entry.by.push(owner);
      owned.set(key, entry);
    }
    unowned.push(
      ...subtract(
        prefix,
        inside.map((network) => network.prefix),
      ),
    );
  }
  return { owned: [...owned.values()], unowned: exactCover(unowned) };
}
