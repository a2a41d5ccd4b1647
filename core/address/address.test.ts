import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type Address,
  buildRangeTable,
  commonBits,
  containsAddress,
  containsPrefix,
  formatAddress,
  isGloballyRoutable,
  lastOf,
  lookup,
  makeAddress,
  nextAddress,
  type Prefix,
  PrefixList,
  parseAddress,
  parsePrefix,
  prefixOf,
  previousAddress,
  sameAddress,
  subnetAddressKind,
} from "./index.ts";

const word = fc.integer({ min: 0, max: 0xffffffff });
const sparse = fc.oneof(word, fc.constant(0), fc.constant(0xffff), fc.constant(0xffffffff));
const four = word.map((w) => makeAddress(4, w));
const six = fc.tuple(sparse, sparse, sparse, sparse).map((w) => makeAddress(6, ...w));
const anyAddress = fc.oneof(four, six);

function address(text: string): Address {
  const parsed = parseAddress(text);
  if (!parsed) throw new Error(text);
  return parsed;
}

function prefix(text: string): Prefix {
  const parsed = parsePrefix(text);
  if (!parsed) throw new Error(text);
  return parsed;
}

describe("text forms", () => {
  it("reads back what it writes", () => {
    fc.assert(
      fc.property(anyAddress, (a) => {
        const read = parseAddress(formatAddress(a));
        expect(read).not.toBeNull();
        expect(read && sameAddress(read, a)).toBe(true);
      }),
    );
  });

  // RFC 5952 sections 4.1 to 4.3 and 5, and their examples.
  it.each([
    ["2001:0db8::0001", "2001:db8::1"],
    ["2001:db8:0:0:0:0:2:1", "2001:db8::2:1"],
    ["2001:db8:0:1:1:1:1:1", "2001:db8:0:1:1:1:1:1"],
    ["2001:0:0:1:0:0:0:1", "2001:0:0:1::1"],
    ["2001:db8:0:0:1:0:0:1", "2001:db8::1:0:0:1"],
    ["2001:DB8::A", "2001:db8::a"],
    ["::", "::"],
    ["0:0:0:0:0:0:0:1", "::1"],
    ["1::", "1::"],
    ["::ffff:192.0.2.1", "::ffff:192.0.2.1"],
    ["2001:db8::192.0.2.33", "2001:db8::c000:221"],
  ])("writes %s as %s", (given, wanted) => {
    expect(formatAddress(address(given))).toBe(wanted);
  });

  it.each([
    "",
    "1.2.3",
    "1.2.3.4.5",
    "256.1.1.1",
    "01.2.3.4",
    "1.2.3.4/24",
    ":::",
    "1::2::3",
    "12345::",
    "fe80::1%eth0",
    "1:2:3:4:5:6:7",
    "1:2:3:4:5:6:7:8:9",
    "::1.2.3",
    "1.2.3.4::",
  ])("refuses %s", (text) => {
    expect(parseAddress(text)).toBeNull();
  });

  it("refuses prefixes with host bits, bad lengths and signs", () => {
    for (const text of [
      "10.0.0.1/24",
      "10.0.0.0/33",
      "10.0.0.0/-1",
      "10.0.0.0/",
      "10.0.0.0/08",
      "2001:db8::1/64",
      "::/129",
    ]) {
      expect(parsePrefix(text)).toBeNull();
    }
  });
});

describe("prefixes", () => {
  it("hold what lies between their first and last address, and no more", () => {
    fc.assert(
      fc.property(anyAddress, fc.nat(128), (a, n) => {
        const p = prefixOf(a, n % (a.family === 4 ? 33 : 129));
        const last = lastOf(p);
        expect(containsAddress(p, a)).toBe(true);
        expect(containsAddress(p, last)).toBe(true);
        const after = nextAddress(last);
        const before = previousAddress(p.address);
        if (after) expect(containsAddress(p, after)).toBe(false);
        if (before) expect(containsAddress(p, before)).toBe(false);
      }),
    );
  });

  it("counts common bits as the longest prefix that holds both", () => {
    fc.assert(
      fc.property(four, four, (a, b) => {
        const n = commonBits(a, b);
        expect(containsAddress(prefixOf(a, n), b)).toBe(true);
        if (n < 32) expect(containsAddress(prefixOf(a, n + 1), b)).toBe(false);
      }),
    );
  });

  // RFC 3021: a /31 has neither; RFC 6164: nor has a /127.
  it.each([
    ["192.0.2.0/24", "192.0.2.0", "network"],
    ["192.0.2.0/24", "192.0.2.255", "broadcast"],
    ["192.0.2.0/24", "192.0.2.1", null],
    ["192.0.2.4/30", "192.0.2.7", "broadcast"],
    ["192.0.2.4/31", "192.0.2.4", null],
    ["192.0.2.4/31", "192.0.2.5", null],
    ["192.0.2.4/32", "192.0.2.4", null],
    ["2001:db8::/64", "2001:db8::", "network"],
    ["2001:db8::/64", "2001:db8::ffff:ffff:ffff:ffff", null],
    ["2001:db8::/127", "2001:db8::", null],
  ])("in %s, %s is %s", (subnet, a, kind) => {
    expect(subnetAddressKind(prefix(subnet), address(a))).toBe(kind);
  });

  it("knows private from public addresses, documentation blocks standing for public ones (RFC 6890)", () => {
    const lanes = [
      "10.1.2.3",
      "172.31.0.1",
      "192.168.1.1",
      "100.64.0.1",
      "169.254.1.1",
      "127.0.0.1",
      "fd00::1",
      "fe80::1",
      "::1",
      "224.0.0.1",
    ];
    for (const a of lanes) expect(isGloballyRoutable(address(a)), a).toBe(false);
    for (const a of ["192.0.2.1", "198.51.100.1", "203.0.113.1", "2001:db8::1", "9.9.9.9", "172.32.0.1"]) {
      expect(isGloballyRoutable(address(a)), a).toBe(true);
    }
  });
});

describe("a list of prefixes", () => {
  it("finds what lies in one and what holds one, as looking at each would", () => {
    const crowded = fc
      .tuple(anyAddress, fc.nat(128))
      .map(([a, n]) => prefixOf(a, n % (a.family === 4 ? 33 : 129)));
    fc.assert(
      fc.property(
        fc.array(crowded, { maxLength: 40 }),
        fc.array(crowded, { maxLength: 10 }),
        (list, more) => {
          const prefixes = [...list, ...list.slice(0, 5)];
          const index = new PrefixList(
            prefixes.map((_, i) => i),
            (i) => prefixes[i],
          );
          for (const asked of [...prefixes, ...more]) {
            const looked = (fits: (p: Prefix) => boolean) => prefixes.flatMap((p, i) => (fits(p) ? [i] : []));
            expect(index.at(asked)).toEqual(
              looked((p) => containsPrefix(asked, p) && containsPrefix(p, asked)),
            );
            expect(index.within(asked)).toEqual(looked((p) => containsPrefix(asked, p)));
            expect(index.holding(asked)).toEqual(looked((p) => containsPrefix(p, asked)));
          }
        },
      ),
    );
  });
});

describe("longest-prefix lookup", () => {
  const linear = (prefixes: readonly Prefix[], a: Address) => {
    let best = -1;
    for (const [i, p] of prefixes.entries()) {
      if (containsAddress(p, a) && (best < 0 || p.length > prefixes[best].length)) best = i;
    }
    return best;
  };

  it.each([
    [4 as const, word.map((w) => makeAddress(4, w)), 33],
    [6 as const, six, 129],
  ])("finds what a linear scan finds, IPv%i", (family, addresses, lengths) => {
    // Lengths near the top and crowded addresses make nesting and shared ends common.
    const crowded = fc.tuple(addresses, fc.nat(lengths - 1)).map(([a, n]) => prefixOf(a, n));
    fc.assert(
      fc.property(
        fc.array(crowded, { maxLength: 60 }),
        fc.array(addresses, { minLength: 1, maxLength: 20 }),
        (prefixes, probes) => {
          const table = buildRangeTable(family, prefixes);
          const edges = prefixes.flatMap((p) => [
            p.address,
            lastOf(p),
            nextAddress(lastOf(p)),
            previousAddress(p.address),
          ]);
          for (const a of [...probes, ...edges.filter((e) => e !== null)])
            expect(lookup(table, a)).toBe(linear(prefixes, a));
        },
      ),
      { numRuns: 150 },
    );
  });

  it("finds the same with the index of a large table", () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(four, fc.integer({ min: 8, max: 32 })), { minLength: 2500, maxLength: 2600 }),
        fc.array(four, { minLength: 50, maxLength: 50 }),
        (entries, probes) => {
          const prefixes = entries.map(([a, n]) => prefixOf(a, n));
          const table = buildRangeTable(4, prefixes);
          expect(table.index).not.toBeNull();
          for (const a of [...probes, ...prefixes.slice(0, 100).map(lastOf)])
            expect(lookup(table, a)).toBe(linear(prefixes, a));
        },
      ),
      { numRuns: 5 },
    );
  });
});
