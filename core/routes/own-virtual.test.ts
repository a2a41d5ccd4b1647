import { describe, expect, it } from "vitest";
import { type Gateways, type Loose, twoGateways } from "../../tests/support/shared-plans.ts";
import { findAll } from "../findings/index.ts";
import type { Outage, Plan } from "../plan/index.ts";
import { tableReport, timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";

/** The address for which ra, or else rb, stands. */
const SHARED = "172.20.16.1";
const ANY = "0.0.0.0/0";

/** Two gateways, each of which routes 10.66.0.0/16 to the shared address. */
function eachToShared(route: Loose = {}, parts: Gateways = {}): Plan {
  const routes = (wan: string) => [
    { to: ANY, via: wan },
    { to: "10.66.0.0/16", via: SHARED, ...route },
  ];
  return twoGateways({
    ra: { routes: routes("198.51.100.1") },
    rb: { routes: routes("198.51.100.5") },
    ...parts,
  });
}

/** The state and reason of the routes by the shared address with these elements failed. */
function statesOf(plan: Plan, ...failed: string[]) {
  const model = NetworkModel.compile(plan);
  const { world } = model.under(failed);
  return ["ra", "rb"].map((id) => {
    const device = plan.devices.findIndex((one) => one.id === id);
    const { routes } = tableReport(world, device, "main");
    const { state, reason } = routes.find(({ via }) => via === SHARED) ?? {};
    return reason ? [state, reason.code] : [state];
  });
}

const usable = ["in-use"];
const own = ["unusable", "next-hop-own-address"];

describe("rule 4.4: a next hop that is a virtual address of the device's own", () => {
  it("is unusable while the device stands for it, and good while the other does", () => {
    expect(statesOf(eachToShared())).toEqual([own, usable]);
  });

  it("follows the roles: whoever takes over loses it", () => {
    expect(statesOf(eachToShared(), "device:ra")[1]).toEqual(own);
    expect(statesOf(eachToShared(), "device:rb")[0]).toEqual(own);
    const tracked = eachToShared({}, { a: { track: [{ interface: "wan", lower: 30 }] } });
    expect(statesOf(tracked, "link:wa")).toEqual([usable, own]);
  });

  it("is so with the interface named, and in a policy table", () => {
    expect(statesOf(eachToShared({ out: "lan" }))).toEqual([own, usable]);
    const inTable = twoGateways({
      ra: {
        policyTables: [
          {
            name: "lan",
            match: { from: ["172.20.16.0/24"] },
            lookup: "first",
            routes: [{ to: ANY, via: SHARED }],
          },
        ],
      },
    });
    const model = NetworkModel.compile(inTable);
    const report = tableReport(model.world, 1, "main");
    expect(report.policyTables?.[0].routes[0]).toMatchObject({
      state: "unusable",
      reason: {
        code: "next-hop-own-address",
        text: "the next hop 172.20.16.1 is a virtual address that ra currently owns",
      },
    });
  });

  it("leaves alone who is no virtual router of that address, or in another VRF", () => {
    const parted = twoGateways({
      ra: {
        interfaces: [
          {
            name: "lan",
            addresses: ["172.20.16.2/24"],
            virtual: [{ id: 16, addresses: [SHARED], priority: 110 }],
          },
          { name: "wan", addresses: ["198.51.100.2/30"] },
          { name: "side", vrf: "other", addresses: ["172.20.16.77/24"] },
        ],
        routes: [{ to: "10.66.0.0/16", via: SHARED, vrf: "other" }],
      },
      plan: {
        links: [
          { id: "lan", medium: "switch", ends: ["pc/eth0", "ra/lan", "rb/lan"] },
          { id: "wa", ends: ["ra/wan", "isp/a"] },
          { id: "wb", ends: ["rb/wan", "isp/b"] },
          { id: "sl", ends: ["isp/srv", "srv/eth0"] },
          { id: "sd", medium: "switch", ends: ["ra/side"] },
        ],
      },
    });
    const { world } = NetworkModel.compile(parted);
    const { routes } = tableReport(world, 1, "other");
    expect(routes.find(({ via }) => via === SHARED)?.state).toBe("in-use");
    const host = tableReport(world, 0, "main").routes.find(({ via }) => via === SHARED);
    expect(host?.state).toBe("in-use");
  });

  it("is told by a finding at whoever stands for it, once", () => {
    const found = findAll(NetworkModel.compile(eachToShared()), { fixes: false });
    const told = found.filter(({ code }) => code === "next-hop-invalid");
    expect(told.map(({ device }) => device)).toEqual(["ra"]);
  });
});

describe("rules 4.4 and 14 in time", () => {
  /** A gateway without its own exit uses the Active one on the LAN. */
  const helped = twoGateways({
    a: { preempt: true },
    rb: {
      routes: [
        { to: ANY, via: "198.51.100.5" },
        { to: ANY, via: SHARED, distance: 50 },
      ],
    },
    plan: {
      flows: [{ id: "f", from: "rb", source: "172.20.16.3", to: "srv", protocol: "icmp" }],
    },
  });
  const lineOf = (steps: Outage["steps"]) => {
    const model = NetworkModel.compile(helped);
    return timelineReport(model.engine, model.gateways, model.stepsOf(steps));
  };

  it("a Backup without a way of its own leaves by the Active until it stands for the address itself", () => {
    const { flows } = lineOf([
      { atMs: 0, fail: ["link:wb"] },
      { atMs: 10_000, fail: ["interface:ra/lan"] },
    ]);
    const [{ spans }] = flows;
    expect(spans.map(({ verdict }) => verdict)).toEqual(["fails", "works", "fails"]);
    // Carried by ra from the carrier delay on, until that one leaves the LAN; rb then has no next hop but itself.
    expect(spans[1].carriers).toEqual(["left"]);
    expect(spans[2].toMs).toBeNull();
  });

  it("no neighbour is told to be silent for it: the change of roles says it", () => {
    const { events } = lineOf([{ atMs: 0, fail: ["interface:ra/lan"] }]);
    expect(JSON.stringify(events)).not.toContain(`${SHARED} no longer answers`);
    expect(events.length).toBeGreaterThan(1);
  });
});
