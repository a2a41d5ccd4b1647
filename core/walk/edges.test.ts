import { describe, expect, it } from "vitest";
import { endOf, planOf, tripOf } from "../../tests/support/plans.ts";
import { findAll } from "../findings/index.ts";
import type { Plan } from "../plan/index.ts";
import { pathReport, sweepReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { explainTrip } from "../words/index.ts";

type Loose = Record<string, unknown>;

const port = (name: string, ...addresses: string[]) => ({ name, addresses });

describe("an address at two interfaces", () => {
  const segment = (second: string, more: Loose = {}): Plan =>
    planOf({
      devices: [
        {
          id: "pc",
          role: "host",
          interfaces: [port("e", "10.0.0.10/24")],
          routes: [{ to: "0.0.0.0/0", via: "10.0.0.1" }],
        },
        {
          id: "a",
          role: "router",
          interfaces: [port("lan", "10.0.0.1/24"), { ...port("x", "10.1.0.1/24"), kind: "loopback" }],
        },
        { id: "b", role: "router", interfaces: [port("lan", second)], ...more },
      ],
      links: [{ id: "lan", medium: "switch", ends: ["pc/e", "a/lan", "b/lan"] }],
      flows: [
        { id: "near", from: "pc", to: "10.0.0.1" },
        { id: "by", from: "pc", to: "10.1.0.1" },
        { id: "other", from: "a", source: "10.1.0.1", to: "10.0.0.10" },
      ],
    });
  const found = (plan: Plan) =>
    findAll(NetworkModel.compile(plan)).filter(({ code }) => code === "duplicate-address");
  const uncertain = (plan: Plan) => {
    const model = NetworkModel.compile(plan);
    return sweepReport(model.engine, model.gateways, 1).flows.flatMap(({ id, nominal }) =>
      nominal.uncertain ? [id] : [],
    );
  };

  it("of one link is an error, and makes the ways uncertain that rest on it, and no others", () => {
    const plan = segment("10.0.0.1/24");
    expect(found(plan).map(({ severity, text }) => [severity, text])).toEqual([
      [
        "error",
        "10.0.0.1 is assigned to a/lan and to b/lan on the same link. Which of them answers is not known.",
      ],
    ]);
    expect(uncertain(plan)).toEqual(["near", "by", "other"]);
    const model = NetworkModel.compile(plan);
    expect(pathReport(model.world, model.gateways, tripOf(model.world, "pc", "10.0.0.1")).uncertain).toBe(
      true,
    );
    const away = tripOf(model.world, "a", "10.0.0.10", { source: "10.1.0.1" });
    expect(away.worst.outbound.hops[0].nextHop).toBeNull();
    expect(found(segment("10.0.0.2/24"))).toEqual([]);
    expect(uncertain(segment("10.0.0.2/24"))).toEqual([]);
  });

  it("is none where the interface is off, the address whole or link-local, or both are a pair", () => {
    const plan = segment("10.0.0.1/24");
    const off = plan.devices.map((device) =>
      device.id === "b"
        ? { ...device, interfaces: device.interfaces.map((one) => ({ ...one, enabled: false })) }
        : device,
    );
    expect(found({ ...plan, devices: off })).toEqual([]);
    expect(found(segment("10.0.0.1/32"))).toEqual([]);
    expect(found({ ...plan, pairs: [] })).toHaveLength(1);
  });

  it("of two places is a warning where some device has routes to both", () => {
    const place = (id: string) => ({
      id,
      role: "router",
      interfaces: [
        port("up", `10.0.${id === "a" ? 1 : 2}.2/30`),
        { ...port("lan", "192.168.0.1/24"), kind: "ethernet" },
      ],
    });
    const hub = (routes: Loose[]) =>
      planOf({
        devices: [
          {
            id: "hub",
            role: "router",
            interfaces: [port("a", "10.0.1.1/30"), port("b", "10.0.2.1/30")],
            routes,
          },
          place("a"),
          place("b"),
          { id: "h1", role: "host", interfaces: [port("e", "192.168.0.9/24")] },
          { id: "h2", role: "host", interfaces: [port("e", "192.168.0.8/24")] },
        ],
        links: [
          { id: "a", ends: ["hub/a", "a/up"] },
          { id: "b", ends: ["hub/b", "b/up"] },
          { id: "la", ends: ["a/lan", "h1/e"] },
          { id: "lb", ends: ["b/lan", "h2/e"] },
        ],
      });
    expect(found(hub([{ to: "192.168.0.0/24", via: "10.0.1.2" }]))).toEqual([]);
    const both = found(
      hub([
        { to: "192.168.0.0/24", via: "10.0.1.2" },
        { to: "192.168.0.0/24", via: "10.0.2.2", distance: 9 },
      ]),
    );
    expect(both.map(({ severity, text }) => [severity, text])).toEqual([
      [
        "warning",
        "192.168.0.1 is assigned to a/lan and to b/lan, and hub has routes to both. Which of them it reaches depends on the route in use.",
      ],
    ]);
  });
});

describe("rule 6.2: what of a policy decides", () => {
  const wall = (policy: Loose, profile = "zone-firewall") =>
    NetworkModel.compile(
      planOf({
        devices: [
          {
            id: "pc",
            role: "host",
            interfaces: [port("e", "10.0.0.10/24")],
            routes: [{ to: "0.0.0.0/0", via: "10.0.0.1" }],
          },
          {
            id: "fw",
            role: "firewall",
            profile,
            interfaces: [
              { ...port("in", "10.0.0.1/24"), zone: "inside" },
              { ...port("out", "10.1.0.1/24"), zone: "outside" },
            ],
            policy,
          },
          {
            id: "srv",
            role: "host",
            interfaces: [port("e", "10.1.0.10/24")],
            routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
          },
        ],
        links: [
          { id: "a", ends: ["pc/e", "fw/in"] },
          { id: "b", ends: ["srv/e", "fw/out"] },
        ],
      }),
    );
  const told = (policy: Loose, profile?: string, from = "pc", to = "10.1.0.10") => {
    const { world, gateways } = wall(policy, profile);
    const trip = tripOf(world, from, to, { protocol: "tcp", port: 443 });
    return explainTrip(gateways, { world, trip }, { world, trip }).sentences;
  };

  it("is told by its sentence: a rule, the order of trust, a default of policy or profile", () => {
    const rule = { from: ["inside"], to: ["outside"], action: "allow" };
    expect(told({ rules: [{ ...rule, protocol: "udp" }, rule] })).toEqual([
      "Allowed by the policy of fw (rule 2).",
    ]);
    expect(told({ trust: ["inside", "outside"] })).toEqual(["Allowed by the policy of fw (order of trust)."]);
    expect(told({ default: "allow" })).toEqual(["Allowed by the policy of fw (default of the policy)."]);
    const denial = "The policy of fw denies from inside to outside for 10.0.0.10 to 10.1.0.10: ";
    // A policy without rules applies its profile's default.
    expect(told({})).toEqual([`${denial}default of the profile.`]);
    expect(told({}, "interface-firewall")).toEqual([`${denial}default of the profile.`]);
    expect(told({ rules: [{ ...rule, action: "deny" }] })).toEqual([`${denial}rule 1.`]);
    expect(told({}, "classic-router")).toEqual(["Allowed by the policy of fw (default of the profile)."]);
  });
});

describe("rule 8: cloud networks", () => {
  const cloud = (lookup = "overlay") =>
    NetworkModel.compile(
      planOf({
        devices: [
          {
            id: "net",
            role: "cloud",
            interfaces: [port("apps", "10.60.1.1/24"), port("guard", "10.60.2.1/24")],
            policyTables: [
              {
                name: "apps",
                match: { in: ["apps"] },
                lookup,
                routes: [{ to: "10.60.2.128/25", via: "10.60.2.10" }],
              },
            ],
          },
          { id: "guard", role: "router", interfaces: [port("e", "10.60.2.10/24")] },
          {
            id: "app",
            role: "host",
            interfaces: [port("e", "10.60.1.10/24")],
            routes: [{ to: "0.0.0.0/0", via: "10.60.1.1" }],
          },
        ],
        links: [
          { id: "apps", medium: "cable", ends: ["net/apps", "app/e"] },
          { id: "guard", medium: "cable", ends: ["net/guard", "guard/e"] },
        ],
      }),
    );

  it("keep carrier whatever happens to others, so that a dead appliance loses what is sent to it", () => {
    const model = cloud();
    const { network } = model;
    const world = model.under(["device:guard"]).world;
    expect(world.state.carrierUp[network.interfaceIndex.get("net/guard") as number]).toBe(1);
    const trip = tripOf(world, "app", "10.60.2.200");
    expect(network.devices[Number(endOf(trip)?.device)].id).toBe("net");
    expect(endOf(trip)?.code).toBe("neighbour-silent");
  });
});
