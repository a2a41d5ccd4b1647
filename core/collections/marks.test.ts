import fc from "fast-check";
import { expect, it } from "vitest";
import { BytePool, Marks } from "./index.ts";

it("marks hold what a set would, however often they are emptied", () => {
  fc.assert(
    fc.property(fc.array(fc.oneof(fc.nat(9), fc.constant(null)), { maxLength: 60 }), (steps) => {
      const marks = new Marks(10);
      const set = new Set<number>();
      for (const step of steps) {
        if (step === null) {
          expect(marks.empty()).toBe(marks);
          set.clear();
        } else {
          expect(marks.add(step)).toBe(!set.has(step));
          set.add(step);
        }
        expect(marks.toArray()).toEqual([...set]);
        const met: number[] = [];
        marks.each((n) => met.push(n));
        expect(met).toEqual([...set]);
      }
    }),
  );
});

it("lent bytes are copies apart from each other, and lent again once they are taken back", () => {
  const lent = new BytePool();
  const base = Uint8Array.of(1, 2, 3);
  const [one, other, short] = [lent.copy(base), lent.copy(base), lent.copy(Uint8Array.of(7))];
  one[0] = 9;
  expect([base, one, other, short].map((bytes) => [...bytes])).toEqual([
    [1, 2, 3],
    [9, 2, 3],
    [1, 2, 3],
    [7],
  ]);
  lent.takeBack();
  const again = lent.copy(base);
  expect([...again]).toEqual([1, 2, 3]);
  expect(again).not.toBe(one);
  expect(again.buffer).toBe(one.buffer);
});
