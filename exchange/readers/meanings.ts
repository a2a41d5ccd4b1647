/** The meanings of words and codes in a text: static, connected, local, inactive, active, discard, reject, or a
 * protocol. */
export class Meanings {
  private readonly told: ReadonlyMap<string, string>;

  constructor(told: Iterable<readonly [string, string]> = []) {
    this.told = new Map(told);
  }

  /** With more meanings; earlier ones have precedence. */
  with(more: Iterable<readonly [string, string]>): Meanings {
    return new Meanings([...more, ...this.told]);
  }

  /** The meaning of a word; words of the trade explain themselves. Null if unknown. */
  of(word: string): string | null {
    return this.told.get(word) ?? ownMeanings.get(word.toLowerCase()) ?? null;
  }

  /** Whether its meaning was given rather than being a word of the trade. */
  wasTold(word: string): boolean {
    return this.told.has(word);
  }

  /** All given meanings. */
  entries(): IterableIterator<[string, string]> {
    return this.told.entries() as IterableIterator<[string, string]>;
  }
}

/** Words of the trade and of open standards with a fixed meaning. */
const ownMeanings = new Map<string, string>([
  ...[
    "static",
    "connected",
    "local",
    "ospf",
    "ospfv2",
    "ospfv3",
    "bgp",
    "rip",
    "ripng",
    "isis",
    "dhcp",
    "ra",
    "babel",
    "inactive",
    "active",
    "discard",
    "reject",
  ].map((word) => [word, word] as const),
  ["direct", "connected"],
  ["is-is", "isis"],
  ["blackhole", "discard"],
  ["unreachable", "reject"],
  ["prohibit", "reject"],
]);

/** Meanings that say something of a route besides where it came from. */
export const states = new Set(["inactive", "active", "discard", "reject"]);
