import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { engineOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import {
  type Address,
  containsAddress,
  formatAddress,
  formatPrefix,
  lastOf,
  nextAddress,
  type Prefix,
  parsePrefix,
  prefixOf,
  previousAddress,
} from "../address/index.ts";
import { destinationOf } from "../network/index.ts";
import { isRouteInUse, nextHopsOf } from "../routes/index.ts";
import type { World } from "../walk/index.ts";
import { candidatesIn, prefixLookupReport } from "./index.ts";

/** Where one address goes: the next hops of the longest active routes that hold it. */
function wayOf(world: World, device: number, address: Address): string {
  const { network } = world.state;
  const tables = world.tablesOf(device);
  const active = candidatesIn(world, device, 0).filter(
    (c) => isRouteInUse(network, tables, c) && containsAddress(destinationOf(network, c), address),
  );
  const longest = Math.max(...active.map((c) => network.candidates.length[c]));
  return active
    .filter((c) => network.candidates.length[c] === longest)
    .flatMap((c) =>
      network.candidates.action[c] === 0
        ? nextHopsOf(network, tables, c).map(
            (hop) => `${hop.out} ${hop.address && formatAddress(hop.address)}`,
          )
        : [`action ${network.candidates.action[c]}`],
    )
    .sort()
    .join();
}

describe("lookup of a prefix", () => {
  it("tells the routes that hold it, those inside it, and whether its addresses go different ways", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const { network, healthy } = engineOf(randomPlan(seed, { mistakes: seed % 2 === 0 }));
        const { world } = healthy;
        const device = random.below(network.devices.length);
        const routes = candidatesIn(world, device, 0).map((c) => destinationOf(network, c));
        if (routes.length === 0) return;
        const { address, length } = random.pick(routes);
        const asked: Prefix = prefixOf(address, Math.max(0, length - random.below(6)));
        const report = prefixLookupReport(world, device, "main", asked);
        // Within a range that no route's edge cuts, all addresses go one way.
        const edges = routes
          .flatMap((own) => [
            own.address,
            lastOf(own),
            nextAddress(lastOf(own)),
            previousAddress(own.address),
          ])
          .filter((one): one is Address => one !== null && one.family === asked.address.family)
          .filter((one) => containsAddress(asked, one));
        const ways = new Set(
          [asked.address, lastOf(asked), ...edges].map((one) => wayOf(world, device, one)),
        );
        expect({ asked: formatPrefix(asked), split: report.split }).toEqual({
          asked: formatPrefix(asked),
          split: ways.size > 1,
        });
        for (const { to } of report.matches) {
          const own = parsePrefix(to) as Prefix;
          expect(own.length <= asked.length && containsAddress(own, asked.address)).toBe(true);
        }
        for (const { to, state } of report.inside) {
          const own = parsePrefix(to) as Prefix;
          expect([state, own.length > asked.length, containsAddress(asked, own.address)]).toEqual([
            "in-use",
            true,
            true,
          ]);
        }
      }),
      { numRuns: 200 },
    );
  });
});
