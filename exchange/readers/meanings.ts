/** What words and codes of a text stand for: static, connected, local, inactive, active, discard, reject, or a protocol. */
export class Meanings {
  private readonly told: ReadonlyMap<string, string>;

  constructor(told: Iterable<readonly [string, string]> = []) {
    this.told = new Map(told);
  }

  /** With more of them; what was told before goes first. */
  with(more: Iterable<readonly [string, string]>): Meanings {
    return new Meanings([...more, ...this.told]);
  }

  /** What a word stands for; a word that is itself a meaning needs no telling. Null where nobody said. */
  of(word: string): string | null {
    return this.told.get(word) ?? ownMeanings.get(word.toLowerCase()) ?? null;
  }

  /** Whether somebody told it, rather than that the word says it itself. */
  wasTold(word: string): boolean {
    return this.told.has(word);
  }

  /** All that was told. */
  entries(): IterableIterator<[string, string]> {
    return this.told.entries() as IterableIterator<[string, string]>;
  }
}

/** Words of the trade and of open standards that mean what they say. */
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
