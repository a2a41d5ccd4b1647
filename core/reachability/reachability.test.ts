import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoPlan, engineOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import {
  type Address,
  compareAddress,
  formatPrefix,
  lastOf,
  makeAddress,
  nextAddress,
  parseAddress,
  sameAddress,
} from "../address/index.ts";
import { applyEdit, type Plan } from "../plan/index.ts";
import { gatewaysOf, type World, walkPacket } from "../walk/index.ts";
import { coverageOf, differenceOf, loopsIn, prefixesOfRange, rangesOf } from "./index.ts";

const address = (text: string) => parseAddress(text) as Address;

function fate(world: World, device: number, destination: Address): string {
  const walks = walkPacket(world, {
    device,
    vrf: 0,
    source: null,
    destination,
    protocol: "icmp",
    port: null,
  });
  return walks
    .map(
      (walk) =>
        `${walk.result} ${walk.drop?.code ?? ""} ${walk.hops.map((hop) => `${hop.device}/${hop.out}`).join(">")}`,
    )
    .join(" | ");
}

describe("rule 11: ranges", () => {
  it("write a range as the fewest prefixes, and nothing beside it", () => {
    fc.assert(
      fc.property(fc.nat(5000), fc.nat(5000), (a, n) => {
        const range = { first: makeAddress(4, 0x0a000000 + a), last: makeAddress(4, 0x0a000000 + a + n) };
        const prefixes = prefixesOfRange(range);
        expect(sameAddress(prefixes[0].address, range.first)).toBe(true);
        expect(sameAddress(lastOf(prefixes[prefixes.length - 1]), range.last)).toBe(true);
        for (const [i, p] of prefixes.slice(1).entries()) {
          expect(sameAddress(p.address, nextAddress(lastOf(prefixes[i])) as Address)).toBe(true);
        }
      }),
    );
    expect(
      prefixesOfRange({ first: address("0.0.0.0"), last: address("255.255.255.255") }).map(formatPrefix),
    ).toEqual(["0.0.0.0/0"]);
  });

  it("are treated alike throughout, by every device", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const engine = engineOf(randomPlan(seed, { mistakes: true }));
        const { world } = engine.healthy;
        const random = new Random(seed);
        for (const range of rangesOf([engine.network], 4)) {
          expect(compareAddress(range.first, range.last)).toBeLessThanOrEqual(0);
          const inside = makeAddress(
            4,
            range.first.w0 + Math.floor(random.next() * (range.last.w0 - range.first.w0 + 1)),
          );
          const device = random.below(engine.network.devices.length);
          expect(fate(world, device, inside)).toBe(fate(world, device, range.first));
          expect(fate(world, device, range.last)).toBe(fate(world, device, range.first));
        }
      }),
      { numRuns: 20 },
    );
  });

  it("find the circle that no flow of the demo names: Skerry's summary is wider than what exists", () => {
    const engine = engineOf(demoPlan("marrow-bay"));
    const { world } = engine.healthy;
    const loops = loopsIn(coverageOf(world, gatewaysOf(world))).flatMap(({ range }) =>
      prefixesOfRange(range).map(formatPrefix),
    );
    expect(loops).toContain("172.20.33.0/24");
  });
});

describe("rule 11: the difference between two plans", () => {
  const side = (plan: Plan) => {
    const { world } = engineOf(plan).healthy;
    return { world, gateways: gatewaysOf(world) };
  };

  it("is empty for a plan and itself, and tells exactly what a removed route changes", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const plan = randomPlan(seed, { mistakes: true });
        const random = new Random(seed);
        expect(differenceOf(side(plan), side(plan))).toEqual([]);
        const device = random.pick(plan.devices.filter((d) => d.routes.length > 0));
        const edit = {
          label: "remove",
          changes: [
            {
              in: "device" as const,
              device: device.id,
              collection: "routes" as const,
              before: random.pick(device.routes),
              after: null,
            },
          ],
        };
        const outcome = applyEdit(plan, edit);
        if (!outcome.ok) throw new Error(outcome.errors[0].message);
        const [before, after] = [side(plan), side(outcome.plan)];
        const changes = differenceOf(before, after);
        // Brute force: random addresses, and the edges of every range, from every device.
        const probes = rangesOf([before.world.state.network], 4).flatMap((r) => [r.first, r.last]);
        for (const from of before.world.state.network.devices) {
          for (const probe of probes) {
            if (probe.w0 >= 0xe0000000) continue;
            const told = changes.some(
              (c) =>
                c.from === from.id &&
                compareAddress(c.range.first, probe) <= 0 &&
                compareAddress(probe, c.range.last) <= 0,
            );
            const worst = (world: World) => fate(world, from.index, probe);
            if (!worst(before.world).includes("|") && !worst(after.world).includes("|")) {
              expect(told).toBe(worst(before.world) !== worst(after.world));
            }
          }
        }
      }),
      { numRuns: 12 },
    );
  });
});
