import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import type { Outage } from "../plan/index.ts";
import { sweepReport, timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";

type Loose = Record<string, unknown>;

/** A desk behind a router with two ways to a server; `edge` says more of the router, `flow` of the flow. */
function twoExits(edge: Loose = {}, flow: Loose = {}, profile = "classic-router") {
  return NetworkModel.compile(
    planOf({
      profiles: [{ id: "loose", base: "classic-router", midStream: "as-new" }],
      devices: [
        {
          id: "pc",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
          routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
        },
        {
          id: "edge",
          role: "router",
          profile,
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "a", addresses: ["10.2.0.1/30"] },
            { name: "b", addresses: ["10.3.0.1/30"] },
            { name: "own", kind: "loopback", addresses: ["10.9.0.1/32"] },
          ],
          routes: [
            { to: "10.8.0.0/24", via: "10.2.0.2" },
            { to: "10.8.0.0/24", via: "10.3.0.2", distance: 50 },
          ],
          ...edge,
        },
        {
          id: "srv",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["10.2.0.2/30"] },
            { name: "b", addresses: ["10.3.0.2/30"] },
            { name: "lan", kind: "loopback", addresses: ["10.8.0.10/24"] },
          ],
          routes: ["10.1.0.0/24", "10.9.0.1/32"].flatMap((to) => [
            { to, via: "10.2.0.1" },
            { to, via: "10.3.0.1", distance: 50 },
          ]),
        },
      ],
      links: [
        { id: "lan", medium: "switch", ends: ["pc/e", "edge/lan"] },
        { id: "a", ends: ["edge/a", "srv/a"] },
        { id: "b", ends: ["edge/b", "srv/b"] },
      ],
      flows: [{ id: "f", from: "pc", to: "10.8.0.10", protocol: "tcp", port: 443, ...flow }],
    }),
  );
}

const fateOf = (model: NetworkModel, steps: Outage["steps"]) =>
  timelineReport(model.engine, model.gateways, model.stepsOf(steps)).flows[0].sessions;
const cut = [{ atMs: 0, fail: ["link:a"] }];
const kept = { state: "kept", reason: null };
const nat = (...list: [out: string, to: string][]) => ({ sourceNat: list.map(([out, to]) => ({ out, to })) });

describe("rule 18: a session keeps the translation that it began with", () => {
  it("or none, where only the backup translates", () => {
    expect(fateOf(twoExits(nat(["b", "interface"])), cut)).toEqual(kept);
  });

  it("by an address of its own, by whatever exit it leaves", () => {
    expect(fateOf(twoExits(nat(["a", "10.9.0.1"])), cut)).toEqual(kept);
    expect(fateOf(twoExits(nat(["a", "10.9.0.1"], ["b", "interface"])), cut)).toEqual(kept);
  });

  it("but the address of an exit ends with it, also if that exit stays up", () => {
    expect(fateOf(twoExits(nat(["a", "interface"])), cut)).toEqual({
      state: "broken",
      reason: "edge has no session state",
    });
    // Taken mid-stream it is a new session, from another source.
    expect(fateOf(twoExits(nat(["a", "interface"], ["b", "interface"]), {}, "loose"), cut)).toEqual({
      state: "broken",
      reason: "srv sees the source 10.3.0.1 instead of 10.2.0.1",
    });
  });
});

describe("rule 18: a session in time", () => {
  const back = (atMs: number): Outage["steps"] => [
    { atMs: 0, fail: ["link:a", "link:b"] },
    { atMs, restore: ["link:a", "link:b"] },
  ];

  it("lives through a stall that is shorter than it lasts, and no longer one", () => {
    expect(fateOf(twoExits(), back(30_000))).toEqual(kept);
    expect(fateOf(twoExits(), back(120_000))).toEqual({
      state: "broken",
      reason: "nothing passes for 120 s, and the session times out after 60 s",
    });
    expect(fateOf(twoExits({}, { sessionTimeoutMs: 300_000 }), back(120_000))).toEqual(kept);
    // Over UDP it has no end unless the flow says one.
    expect(fateOf(twoExits({}, { protocol: "udp" }), back(120_000))).toEqual(kept);
    expect(fateOf(twoExits({}, { protocol: "udp", sessionTimeoutMs: 9000 }), back(120_000))?.state).toBe(
      "broken",
    );
  });

  it("is uncertain where the bounds of the stall lie on both sides of that", () => {
    const probe = { intervalMs: 10_000, timeoutMs: 1000, failAfter: 3, recoverAfter: 1 };
    const watched = (sessionTimeoutMs: number) => {
      const model = twoExits(
        {
          routes: [
            { to: "10.8.0.0/24", via: "10.2.0.2", watch: "far" },
            { to: "10.8.0.0/24", via: "10.3.0.2", distance: 50 },
          ],
          watches: [{ id: "far", kind: "probe", target: "10.2.0.2", out: "a", via: "10.2.0.2", ...probe }],
        },
        { sessionTimeoutMs },
      );
      const { plan } = model;
      const links = plan.links.map((link) =>
        link.id === "a" ? { ...link, medium: "circuit" as const } : link,
      );
      const devices = plan.devices.map((device) =>
        device.id === "srv"
          ? {
              ...device,
              routes: device.routes.map((route) => ({
                ...route,
                distance: route.via === "10.3.0.1" ? 1 : 9,
              })),
            }
          : device,
      );
      return fateOf(NetworkModel.compile({ ...plan, links, devices }), cut);
    };
    // The probe takes 21 to 31 s.
    expect(watched(20_000)).toMatchObject({ state: "broken" });
    expect(watched(20_000)).not.toHaveProperty("uncertain");
    expect(watched(25_000)).toMatchObject({ state: "broken", uncertain: true });
    expect(watched(40_000)).toEqual(kept);
  });

  it("is lost with a firewall that restarts", () => {
    const guard = {
      role: "firewall",
      profile: "zone-firewall",
      policy: { default: "allow" },
    };
    const steps = [
      { atMs: 0, fail: ["device:edge"] },
      { atMs: 20_000, restore: ["device:edge"] },
    ];
    expect(fateOf(twoExits(guard), steps)).toEqual({ state: "broken", reason: "edge has no session state" });
    expect(fateOf(twoExits(), steps)).toEqual(kept);
  });

  it("is told the same in a sweep", () => {
    const model = twoExits(nat(["a", "interface"]));
    const failure = sweepReport(model.engine, model.gateways, 1).flows[0].failures.find(
      ({ failed }) => failed.join() === "link:a",
    );
    expect(failure?.sessions).toEqual(fateOf(model, cut));
  });
});
