import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import { findAll } from "../findings/index.ts";
import { sweepReport, timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";

/** A router that learns a route from a neighbor, with a static backup by another one. */
function learning(more: { medium?: string; lostAfterMs?: number; bfd?: boolean }) {
  const session = (peer: string) => [
    { id: "n", kind: "bfd", interface: "n", peer, minTxMs: 300, minRxMs: 300, multiplier: 3 },
  ];
  return NetworkModel.compile(
    planOf({
      devices: [
        {
          id: "a",
          role: "router",
          interfaces: [
            { name: "n", addresses: ["10.0.0.1/30"] },
            { name: "s", addresses: ["10.0.1.1/30"] },
          ],
          learned: [
            {
              to: "10.9.0.0/24",
              via: "10.0.0.2",
              protocol: "ospf",
              distance: 110,
              ...(more.lostAfterMs === undefined ? {} : { lostAfterMs: more.lostAfterMs }),
            },
          ],
          routes: [{ to: "10.9.0.0/24", via: "10.0.1.2", distance: 200 }],
          watches: more.bfd ? session("10.0.0.2") : [],
        },
        ...["n", "s"].map((id, k) => ({
          id,
          role: "router",
          interfaces: [
            { name: "a", addresses: [`10.0.${k}.2/30`] },
            { name: "t", addresses: [`10.0.${k + 2}.1/30`] },
          ],
          routes: [{ to: "10.9.0.0/24", via: `10.0.${k + 2}.2` }],
          watches: id === "n" && more.bfd ? [{ ...session("10.0.0.1")[0], interface: "a" }] : [],
        })),
        {
          id: "t",
          role: "router",
          interfaces: [
            { name: "n", addresses: ["10.0.2.2/30"] },
            { name: "s", addresses: ["10.0.3.2/30"] },
            { name: "lan", kind: "loopback", addresses: ["10.9.0.1/24"] },
          ],
          routes: [
            { to: "10.0.0.0/30", via: "10.0.2.1" },
            { to: "10.0.1.0/30", via: "10.0.3.1" },
          ],
        },
      ],
      links: [
        { id: "an", medium: more.medium ?? "circuit", ends: ["a/n", "n/a"] },
        { id: "as", medium: "cable", ends: ["a/s", "s/a"] },
        { id: "nt", medium: "cable", ends: ["n/t", "t/n"] },
        { id: "st", medium: "cable", ends: ["s/t", "t/s"] },
      ],
      flows: [{ id: "f", from: "a", to: "10.9.0.1", expect: { maxOutageMs: 60_000 } }],
    }),
  );
}

const outageOf = (model: NetworkModel, ...steps: Parameters<NetworkModel["stepsOf"]>[0]) =>
  timelineReport(model.engine, model.gateways, model.stepsOf(steps)).flows[0].outageMs;
const dead = { atMs: 0, fail: ["device:n"] };

describe("rule 3.3: learned routes that do not say when they are lost", () => {
  it("leave the end of an outage unknown where the neighbor dies silently", () => {
    const model = learning({});
    expect(outageOf(model, dead)).toEqual({ min: 0, max: null, unknown: true });
    const sweep = sweepReport(model.engine, model.gateways, 1).flows[0];
    const failure = sweep.failures.find(({ failed }) => failed.join() === "device:n");
    // The steady state is the one after the loss.
    expect(failure).toMatchObject({ verdict: "works", outageMs: { min: 0, max: null, unknown: true } });
    const codes = findAll(model).map(({ code }) => code);
    expect(codes).toContain("outage-too-long");
    expect(codes).toContain("learned-without-time");
  });

  it("are lost in their time where they say one", () => {
    const model = learning({ lostAfterMs: 40_000 });
    expect(outageOf(model, dead)).toEqual({ min: 40_000, max: 40_000 });
    expect(findAll(model).map(({ code }) => code)).not.toContain("learned-without-time");
  });

  it("go with carrier, after the carrier delay", () => {
    expect(outageOf(learning({ medium: "cable" }), dead)).toEqual({ min: 100, max: 100 });
  });

  it("go with a BFD session with the neighbor", () => {
    const model = learning({ bfd: true });
    expect(outageOf(model, dead)).toEqual({ min: 600, max: 900 });
    expect(findAll(model).map(({ code }) => code)).not.toContain("learned-without-time");
  });

  it("are there again when the neighbor is, and bound the outage so", () => {
    expect(outageOf(learning({}), dead, { atMs: 30_000, restore: ["device:n"] })).toEqual({
      min: 0,
      max: 30_100,
    });
  });
});
