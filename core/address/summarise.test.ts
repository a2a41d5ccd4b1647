import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  containsAddress,
  formatPrefix,
  lastOf,
  makeAddress,
  nextAddress,
  type Prefix,
  parsePrefix,
  prefixOf,
  previousAddress,
  splitByOwner,
  summarise,
} from "./index.ts";

const prefixes = (...texts: string[]) => texts.map((text) => parsePrefix(text) as Prefix);
const texts = (list: readonly Prefix[]) => list.map(formatPrefix);

describe("summarising", () => {
  it("RFC 4632 section 3.1's block: eight class-C-sized networks are one /21", () => {
    const eight = Array.from({ length: 8 }, (_, i) => `10.24.${i}.0/24`);
    expect(texts(summarise(prefixes(...eight)).exact)).toEqual(["10.24.0.0/21"]);
  });

  it("finds the exact set and the best single prefix with what it swallows", () => {
    const { exact, single } = summarise(prefixes("172.20.16.0/24", "172.20.17.0/24", "172.20.19.0/24"));
    expect(texts(exact)).toEqual(["172.20.16.0/23", "172.20.19.0/24"]);
    expect(single && formatPrefix(single.prefix)).toBe("172.20.16.0/22");
    expect(single && texts(single.swallows)).toEqual(["172.20.18.0/24"]);
  });

  it("does not join neighbours that are no halves of one block", () => {
    expect(texts(summarise(prefixes("10.0.1.0/24", "10.0.2.0/24")).exact)).toEqual([
      "10.0.1.0/24",
      "10.0.2.0/24",
    ]);
  });

  it("takes IPv6, and no single prefix across the families", () => {
    expect(texts(summarise(prefixes("2001:db8::/33", "2001:db8:8000::/33")).exact)).toEqual([
      "2001:db8::/32",
    ]);
    expect(summarise(prefixes("2001:db8::/32", "10.0.0.0/8")).single).toBeNull();
  });

  it("tells what is owned elsewhere from what nobody owns", () => {
    const [inside] = prefixes("172.20.18.64/26");
    const split = splitByOwner(prefixes("172.20.18.0/24"), [{ prefix: inside, owner: "hall" }]);
    expect(split.owned.map((entry) => [formatPrefix(entry.prefix), entry.by])).toEqual([
      ["172.20.18.64/26", ["hall"]],
    ]);
    expect(texts(split.unowned)).toEqual(["172.20.18.0/26", "172.20.18.128/25"]);
  });

  it("covers the same addresses, with nothing to spare and nothing left to join", () => {
    const small = fc
      .tuple(fc.integer({ min: 0, max: 255 }), fc.integer({ min: 22, max: 32 }))
      .map(([n, length]) => prefixOf(makeAddress(4, 0x0a000000 + n * 16), length));
    fc.assert(
      fc.property(fc.array(small, { minLength: 1, maxLength: 24 }), (list) => {
        const { exact, single } = summarise(list);
        const edges = [...list, ...exact].flatMap((p) => [
          p.address,
          lastOf(p),
          nextAddress(lastOf(p)),
          previousAddress(p.address),
        ]);
        for (const a of edges) {
          if (!a) continue;
          const inList = list.some((p) => containsAddress(p, a));
          expect(exact.some((p) => containsAddress(p, a))).toBe(inList);
          if (single && containsAddress(single.prefix, a))
            expect(single.swallows.some((p) => containsAddress(p, a))).toBe(!inList);
        }
        // Minimal: every union of adjacent prefixes of the set that is one prefix would have been joined.
        for (const p of exact) {
          if (p.length === 0) continue;
          const sibling = exact.find(
            (q) =>
              q !== p &&
              q.length === p.length &&
              formatPrefix(prefixOf(q.address, p.length - 1)) ===
                formatPrefix(prefixOf(p.address, p.length - 1)),
          );
          expect(sibling).toBeUndefined();
        }
      }),
    );
  });
});
