import type { GatewayRecord, World } from "../walk/index.ts";
import { entryPoints, families, isOfInterest, outcomeOf, type RangeOutcome } from "./outcomes.ts";
import { type AddressRange, rangesOf } from "./ranges.ts";

export interface Coverage {
  readonly range: AddressRange;
  readonly from: number;
  readonly outcome: RangeOutcome;
}

/** The whole address space, from every entry point (rule 11). Time: ranges × devices walks. */
export function coverageOf(world: World, gateways: readonly GatewayRecord[]): Coverage[] {
  const entries = entryPoints(world);
  return families.flatMap((family) =>
    rangesOf([world.state.network], family)
      .filter(isOfInterest)
      .flatMap((range) =>
        entries.map((from) => ({ range, from, outcome: outcomeOf(world, gateways, from, range) })),
      ),
  );
}

/** Ranges for which packets go in a circle, with the devices that they may start from. */
export function loopsIn(coverage: readonly Coverage[]): { range: AddressRange; from: number[] }[] {
  const loops = new Map<AddressRange, number[]>();
  for (const { range, from, outcome } of coverage) {
    if (outcome.result === "looped") loops.set(range, [...(loops.get(range) ?? []), from]);
  }
  return [...loops].map(([range, from]) => ({ range, from }));
}
