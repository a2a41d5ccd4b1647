import {
  buildRangeTable,
  containsAddress,
  makeAddress,
  type Prefix,
  prefixOf,
  rangeOf4,
  wordMask,
} from "../core/address/index.ts";
import { Random } from "../tests/support/random.ts";
import { bestOf, type Row } from "./timing.ts";

const ROUTES = 100_000;
const LOOKUPS = 2_000_000;

/** Lengths as they lie in a large table: most of them 24 bits, few shorter than 16. */
function randomPrefix(random: Random): Prefix {
  const length = random.chance(0.6) ? 24 : random.chance(0.7) ? 16 + random.below(8) : 25 + random.below(8);
  return prefixOf(makeAddress(4, random.next() * 2 ** 32), length);
}

/** Longest-prefix lookups on 100,000 IPv4 routes, beside one hash table a prefix length. */
export function benchLookups(): Row[] {
  const random = new Random(1);
  const prefixes = Array.from({ length: ROUTES }, () => randomPrefix(random));
  const probes = Uint32Array.from({ length: LOOKUPS }, () =>
    random.chance(0.5)
      ? random.next() * 2 ** 32
      : prefixes[random.below(ROUTES)].address.w0 + random.below(256),
  );
  const built = bestOf(3, () => buildRangeTable(4, prefixes));
  const table = built.result;
  const ours = bestOf(5, () => {
    let sum = 0;
    for (let i = 0; i < LOOKUPS; i++) sum += table.values[rangeOf4(table, probes[i])];
    return sum;
  });

  const byLength = Array.from({ length: 33 }, () => new Map<number, number>());
  for (const [i, p] of prefixes.entries()) {
    if (!byLength[p.length].has(p.address.w0)) byLength[p.length].set(p.address.w0, i);
  }
  const lengths = byLength.flatMap((map, length) => (map.size ? [length] : [])).reverse();
  const masks = lengths.map((length) => wordMask(length, 0));
  const plain = bestOf(1, () => {
    let sum = 0;
    for (let i = 0; i < LOOKUPS; i++) {
      let found = -1;
      for (let k = 0; k < lengths.length; k++) {
        const hit = byLength[lengths[k]].get((probes[i] & masks[k]) >>> 0);
        if (hit !== undefined) {
          found = hit;
          break;
        }
      }
      sum += found;
    }
    return sum;
  });
  if (plain.result !== ours.result) throw new Error("the lookups disagree");
  const scan = 200;
  const linear = bestOf(1, () => {
    let sum = 0;
    for (let i = 0; i < scan; i++) {
      const a = makeAddress(4, probes[i]);
      let best = -1;
      for (let k = 0; k < ROUTES; k++) {
        if ((best < 0 || prefixes[k].length > prefixes[best].length) && containsAddress(prefixes[k], a))
          best = k;
      }
      sum += best;
    }
    return sum;
  });
  const perSecond = (n: number, ms: number) => `${(n / ms / 1000).toFixed(n / ms > 1000 ? 1 : 4)} M/s`;
  return [
    {
      what: `longest-prefix lookups, ${ROUTES} IPv4 routes`,
      measured: perSecond(LOOKUPS, ours.ms),
      baseline: `${perSecond(LOOKUPS, plain.ms)} (a hash table a length), ${perSecond(scan, linear.ms)} (linear scan)`,
      target: "10 M/s",
    },
    { what: "building that table", measured: `${built.ms.toFixed(0)} ms`, baseline: "–", target: "–" },
  ];
}
