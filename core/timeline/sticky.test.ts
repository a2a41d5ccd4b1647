import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import type { Outage } from "../plan/index.ts";
import { timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";

/** A host with two gateways, each on its own interface, that lead to one server. */
function twoWays(profile: string) {
  const gateway = (id: string, n: number) => ({
    id,
    role: "router",
    interfaces: [
      { name: "lan", addresses: [`10.1.${n}.1/24`] },
      { name: "up", addresses: [`10.2.${n}.1/24`] },
    ],
  });
  return NetworkModel.compile(
    planOf({
      devices: [
        {
          id: "pc",
          role: "host",
          profile,
          interfaces: [
            { name: "e1", addresses: ["10.1.1.9/24"] },
            { name: "e2", addresses: ["10.1.2.9/24"] },
          ],
          routes: [
            { to: "0.0.0.0/0", via: "10.1.1.1", out: "e1", metric: 1 },
            { to: "0.0.0.0/0", via: "10.1.2.1", out: "e2", metric: 2 },
          ],
        },
        gateway("g1", 1),
        gateway("g2", 2),
        {
          id: "server",
          role: "host",
          interfaces: [
            { name: "a", addresses: ["10.2.1.9/24"] },
            { name: "b", addresses: ["10.2.2.9/24"] },
            { name: "lo", kind: "loopback", addresses: ["10.9.9.9/32"] },
          ],
          routes: [
            { to: "10.1.1.0/24", via: "10.2.1.1" },
            { to: "10.1.2.0/24", via: "10.2.2.1" },
          ],
        },
      ].map((device) =>
        device.id.startsWith("g")
          ? {
              ...device,
              routes: [{ to: "10.9.9.9/32", via: device.id === "g1" ? "10.2.1.9" : "10.2.2.9" }],
            }
          : device,
      ),
      links: [
        { id: "l1", medium: "switch", ends: ["pc/e1", "g1/lan"] },
        { id: "l2", medium: "switch", ends: ["pc/e2", "g2/lan"] },
        { id: "u1", medium: "switch", ends: ["g1/up", "server/a"] },
        { id: "u2", medium: "switch", ends: ["g2/up", "server/b"] },
      ],
      gateways: [
        { id: "first", at: "pc/e1" },
        { id: "second", at: "pc/e2" },
      ],
      flows: [{ id: "f", from: "pc", to: "10.9.9.9" }],
    }),
  );
}

/** What carries, and from when on. */
function carriersOf(model: NetworkModel, steps: Outage["steps"], kind: "spans" | "leastSpans" = "spans") {
  const [flow] = timelineReport(model.engine, model.gateways, model.stepsOf(steps)).flows;
  return flow[kind].map(({ fromMs, verdict, carriers }) => [
    fromMs,
    verdict === "works" ? carriers.join() : "-",
  ]);
}

const g1 = "device:g1";
const g2 = "device:g2";

describe("rule 7.1: a host that keeps its gateway", () => {
  const sticky = twoWays("sticky-host");

  it("moves once the dead-gateway time has passed, and stays when the first is back", () => {
    const steps = [
      { atMs: 0, fail: [g1] },
      { atMs: 60_000, restore: [g1] },
    ];
    expect(carriersOf(sticky, steps)).toEqual([
      [0, "-"],
      [30_000, "second"],
    ]);
    expect(carriersOf(twoWays("host"), steps)).toEqual([
      [0, "-"],
      [30_000, "second"],
      // The gateway takes its interfaces up 100 ms after their carrier.
      [60_100, "first"],
    ]);
  });

  it("waits that time again when the one in use dies, though the other is back", () => {
    const steps = [
      { atMs: 0, fail: [g1] },
      { atMs: 60_000, restore: [g1] },
      { atMs: 100_000, fail: [g2] },
    ];
    expect(carriersOf(sticky, steps).slice(2)).toEqual([
      [100_000, "-"],
      [130_000, "first"],
    ]);
    expect(carriersOf(sticky, steps, "leastSpans").slice(2)).toEqual([
      [100_000, "-"],
      [110_000, "first"],
    ]);
  });

  it("does not move where the dead one is back in time", () => {
    const steps = [
      { atMs: 0, fail: [g1] },
      { atMs: 60_000, restore: [g1] },
      { atMs: 100_000, fail: [g2] },
      { atMs: 105_000, restore: [g2] },
    ];
    expect(carriersOf(sticky, steps).slice(2)).toEqual([
      [100_000, "-"],
      [105_100, "second"],
    ]);
  });

  it("moves at once where its own carrier is lost", () => {
    const steps = [
      { atMs: 0, fail: [g1] },
      { atMs: 60_000, restore: [g1] },
      { atMs: 100_000, fail: ["link:l2"] },
    ];
    expect(carriersOf(sticky, steps).slice(2)).toEqual([[100_000, "first"]]);
  });
});
