import fc from "fast-check";
import { expect, it } from "vitest";
import { NumberLists } from "./index.ts";

it("lists of numbers hold what arrays would, the last first, whatever room they began with", () => {
  const steps = fc.array(fc.tuple(fc.nat(5), fc.nat(3)), { maxLength: 120 });
  fc.assert(
    fc.property(steps, fc.nat(40), (added, room) => {
      const lists = new NumberLists(6, room);
      const arrays: number[][] = Array.from({ length: 6 }, () => []);
      for (const [key, item] of added) {
        lists.add(key, item);
        if (arrays[key].at(-1) !== item) arrays[key].push(item);
      }
      for (const [key, array] of arrays.entries()) {
        const met: number[] = [];
        lists.each(key, (item) => met.push(item));
        expect(met).toEqual(array.toReversed());
      }
    }),
  );
});
