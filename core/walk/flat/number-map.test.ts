import fc from "fast-check";
import { expect, it } from "vitest";
import { NumberMap } from "./number-map.ts";

it("keeps what a map keeps, and 0 for what was not put in", () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.nat(5000), { maxLength: 600 }), fc.array(fc.nat(5000)), (keys, asked) => {
      const [ours, known] = [new NumberMap(), new Map<number, number>()];
      for (const [n, key] of keys.entries()) {
        const value = n % 2 ? n + 1 : -1 - n;
        ours.add(key, value);
        known.set(key, value);
      }
      for (const key of [...keys, ...asked]) expect(ours.get(key)).toBe(known.get(key) ?? 0);
    }),
  );
});
