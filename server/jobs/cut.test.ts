import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { NetworkModel } from "../../core/index.ts";
import { elementCount } from "../../core/network/index.ts";
import { sweepFlows } from "../../core/reports/index.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { cutSweep } from "./cut.ts";
import { joined } from "./sweeps.ts";

describe("a sweep cut into pieces", () => {
  it("covers every flow under every part of the failures once", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 3000 }),
        fc.nat(40_000),
        fc.constantFrom(1, 2, 3),
        (flows, elements, depth) => {
          const seen = new Map<number, number>();
          for (const { firstFlow, endFlow, part, parts } of cutSweep(flows, elements, depth as 1 | 2 | 3)) {
            expect(part < parts).toBe(true);
            if (depth > 1) expect(parts).toBe(1);
            for (let flow = firstFlow; flow < endFlow; flow++)
              seen.set(flow, (seen.get(flow) ?? 0) + 1 / parts);
          }
          expect(seen.size).toBe(flows);
          expect([...seen.values()].every((share) => Math.abs(share - 1) < 1e-9)).toBe(true);
        },
      ),
    );
  });

  it("finds, piece by piece, what the whole finds", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const { engine, gateways } = model;
    const { flows } = model.plan;
    const whole = sweepFlows(engine, gateways, 1);
    expect(elementCount(engine.network)).toBeGreaterThan(20);
    for (const parts of [1, 2, 3, 7, 40]) {
      const pieces = Array.from({ length: parts }, (_, number) =>
        sweepFlows(engine, gateways, 1, undefined, flows, { number, of: parts }),
      );
      expect(joined(pieces)).toEqual(whole);
    }
  });
});
