import fc from "fast-check";
import { expect, it } from "vitest";
import { orderOf } from "./ordering.ts";

it("puts keys in order, equal ones as they stand, few, more and many", () => {
  fc.assert(
    fc.property(
      fc.array(fc.oneof(fc.nat(50), fc.maxSafeNat()), { maxLength: 40 }),
      fc.constantFrom(1, 5, 60),
      (some, times) => {
        const keys = Float64Array.from(Array.from({ length: times }, () => some).flat());
        const expected = Array.from(keys, (_, i) => i).sort((a, b) => keys[a] - keys[b] || a - b);
        expect(Array.from(orderOf(keys))).toEqual(expected);
      },
    ),
    { numRuns: 60 },
  );
});
