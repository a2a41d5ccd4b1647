import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { fleet } from "../../bench/fleet.ts";
import { chain } from "../../bench/fleets/chain.ts";
import { hubSpoke } from "../../bench/fleets/hub-spoke.ts";
import { leafSpine } from "../../bench/fleets/leaf-spine.ts";
import { mesh } from "../../bench/fleets/mesh.ts";
import { policyFleet } from "../../bench/fleets/policy.ts";
import { demoPlan, engineOf, planOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { compile, findElement, linkElement } from "../network/index.ts";
import { applyEdit, type Change, type Edit, type Plan, type StaticRoute } from "../plan/index.ts";
import {
  differenceOf,
  differenceWithin,
  everythingSuspect,
  type RangeChange,
  type RangeOutcome,
  suspectsOf,
} from "../reachability/index.ts";
import { nextHopsOf } from "../routes/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { createEngine, engineUnder, settle } from "../settle/index.ts";
import { gatewaysOf } from "../walk/index.ts";
import { flowChanges } from "./flow-changes.ts";
import { groupRanges, impactOf } from "./index.ts";

/** A random edit of routes: one removed, or one led elsewhere, or a new one by a neighbour. */
function randomEdit(plan: Plan, seed: number): Edit | null {
  const random = new Random(seed);
  const device = random.pick(plan.devices.filter((d) => d.routes.length > 0));
  if (!device) return null;
  const before = random.pick(device.routes);
  const choice = random.below(3);
  const change = (after: StaticRoute | null, old: StaticRoute | null): Change => ({
    in: "device",
    device: device.id,
    collection: "routes",
    before: old,
    after,
  });
  if (choice === 0) return { label: "out", changes: [change(null, before)] };
  if (choice === 1) return { label: "off", changes: [change({ ...before, enabled: false }, before)] };
  return { label: "in", changes: [change({ to: "10.1.0.0/16", discard: "drop" }, null)] };
}

const edited = (seed: number): { plan: Plan; edit: Edit; after: Plan } | null => {
  const plan = randomPlan(seed, { mistakes: true });
  const edit = randomEdit(plan, seed);
  const outcome = edit && applyEdit(plan, edit);
  return outcome?.ok && edit ? { plan, edit, after: outcome.plan } : null;
};

describe("a plan compiled like the one before it", () => {
  it("is the same as one compiled by itself", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const made = edited(seed);
        if (!made) return;
        const like = compile(made.after, compile(made.plan));
        expect(like).toEqual(compile(made.after));
      }),
      { numRuns: 30 },
    );
  });

  it("takes nothing over where interfaces, roles or links differ", () => {
    const plan = demoPlan("three-routers");
    const west = plan.devices.find((d) => d.id === "west");
    const outcome = applyEdit(plan, {
      label: "an address",
      changes: [
        {
          in: "device",
          device: "west",
          collection: "interfaces",
          before: west?.interfaces[0],
          after: { ...west?.interfaces[0], addresses: ["10.99.0.1/24"] },
        },
      ],
    });
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    expect(compile(outcome.plan, compile(plan))).toEqual(compile(outcome.plan));
  });
});

describe("rule 11: what an edit changes", () => {
  it("is what a comparison of two networks compiled apart finds, from every sender", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const made = edited(seed);
        if (!made) return;
        const side = (engine: ReturnType<typeof engineOf>) => ({
          world: engine.healthy.world,
          gateways: gatewaysOf(engine.healthy.world),
        });
        const before = engineOf(made.plan);
        const apart = differenceOf(side(before), side(engineOf(made.after)));
        const shared = differenceOf(side(before), side(createEngine(compile(made.after, before.network))));
        const told = (changes: typeof apart) =>
          changes
            .map((c) =>
              JSON.stringify([c.range, c.from, c.before.result, c.before.at, c.after.result, c.after.at]),
            )
            .sort();
        expect(told(shared)).toEqual(told(apart));
      }),
      { numRuns: 30 },
    );
  });

  it("leaves alone the flows that it does not tell, and tells those that it changes", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const made = edited(seed);
        if (!made) return;
        const before = NetworkModel.compile(made.plan);
        const outcome = impactOf(before, made.edit);
        if (!outcome.ok) throw new Error(outcome.errors[0].message);
        const told = new Set(outcome.effect.flows.map((flow) => flow.id));
        const now = NetworkModel.compile(made.after).trips();
        for (const [id, trip] of before.trips()) {
          if (trip?.verdict !== now.get(id)?.verdict) expect(told).toContain(id);
        }
      }),
      { numRuns: 30 },
    );
  });
});

describe("rule 11: what an edit changes in fleets of every shape", () => {
  const fleets: [string, () => Plan][] = [
    ["sites on hubs", () => fleet({ devices: 36, links: 72, flows: 30, routes: 360 })],
    ["a mesh with watches", () => mesh(5)],
    ["leaves and spines that share the load", () => leafSpine(6, 3)],
    ["the same in IPv6", () => leafSpine(5, 3, 5, 6)],
    ["a chain of next hops", () => chain(12)],
    ["firewalls and policy", () => policyFleet(8)],
    ["hub and spoke with tunnels", () => hubSpoke(6)],
  ];

  it.each(fleets)("%s: the same as a walk from everywhere to every range finds", (_, made) => {
    const plan = made();
    const before = NetworkModel.compile(plan);
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.nat(3), (seed, kind) => {
        const random = new Random(seed);
        const { id, routes } = random.pick(plan.devices.filter((d) => d.routes.length > 0));
        const route = random.pick(routes);
        const six = route.to.includes(":");
        const others: [StaticRoute | null, StaticRoute | null][] = [
          [route, null],
          [route, { ...route, enabled: false }],
          [null, { to: six ? "2001:db8:77::/64" : "198.18.7.0/24", discard: "drop" }],
          [null, { ...route, to: six ? "::/1" : "10.0.0.0/11" }],
        ];
        const [was, is] = others[kind];
        const outcome = applyEdit(plan, {
          label: "one route",
          changes: [{ in: "device", device: id, collection: "routes", before: was, after: is }],
        });
        if (!outcome.ok) return;
        const after = before.after(outcome.plan);
        const all = everythingSuspect(before.world, after.world);
        const [few, brute] = [undefined, all].map((suspects) =>
          differenceWithin(before, after, Number.POSITIVE_INFINITY, suspects)
            .changes.map((c) => changeText(c))
            .sort(),
        );
        expect(few).toEqual(brute);
        // Flows too: every flow whose result differs is listed.
        const told = flowChanges(before, after, suspectsOf(before.world, after.world));
        expect(told).toEqual(flowChanges(before, after, null));
      }),
      { numRuns: 12 },
    );
  });
});

/** All that a change says. */
function changeText({ range, from, before, after }: RangeChange): string {
  const said = ({ result, at, code, single, carriers, way, exits }: RangeOutcome) => [
    result,
    at,
    code,
    single,
    carriers,
    way,
    exits,
  ];
  return JSON.stringify([range, from, said(before), said(after)]);
}

/** A random edit of one device's interfaces: one gone, one more, or one of another address. */
function randomPortEdit(plan: Plan, seed: number): Edit | null {
  const random = new Random(seed);
  const device = random.pick(plan.devices.filter((d) => d.interfaces.length > 0));
  const before = random.pick(device.interfaces);
  const choice = random.below(5);
  const target = random.pick(plan.devices.flatMap((d) => d.interfaces.flatMap((port) => port.addresses)));
  const off = { ...before, enabled: false };
  const readdressed = { ...before, addresses: [target ?? "10.98.0.1/24"] };
  const changes = [
    { before, after: null },
    { before: null, after: { name: "fresh", addresses: ["10.99.0.1/24"] } },
    { before: null, after: { name: "fresh", addresses: [target ?? "10.98.0.1/24"] } },
    { before, after: off },
    { before, after: readdressed },
  ];
  const edit = {
    label: "ports",
    changes: [
      { in: "device" as const, device: device.id, collection: "interfaces" as const, ...changes[choice] },
    ],
  };
  return edit;
}

describe("rule 11: what an edit of interfaces changes", () => {
  const applied = (seed: number, options: object) => {
    const plan = randomPlan(seed, options);
    const edit = randomPortEdit(plan, seed);
    const outcome = edit && applyEdit(plan, edit);
    return outcome?.ok ? { plan, after: outcome.plan } : null;
  };

  it("leaves a network and tables that are the same as compiled by themselves", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.boolean(), (seed, mistakes) => {
        const made = applied(seed, { mistakes });
        if (!made) return;
        const before = NetworkModel.compile(made.plan);
        const devices = (scenario: typeof before) => scenario.network.devices.map(({ index }) => index);
        // What the first one answered must not be taken for an answer of the second.
        const table = (scenario: typeof before, device: number) => {
          const tables = scenario.world.tablesOf(device);
          const { firstCandidate, endCandidate } = tables.device;
          for (let c = firstCandidate; c < endCandidate; c++) nextHopsOf(scenario.network, tables, c);
          // All next hops are asked for; what else is answered goes by the questions that there were.
          const { sends: _, answered, ...told } = tables;
          return { ...told, nextHops: answered.nextHops };
        };
        for (const device of devices(before)) table(before, device);
        const [after, apart] = [before.after(made.after), NetworkModel.compile(made.after)];
        expect(after.network).toEqual(apart.network);
        for (const device of devices(after)) expect(table(after, device)).toEqual(table(apart, device));
        expect(after.gateways).toEqual(apart.gateways);
        expect([...after.trips()]).toEqual([...apart.trips()]);
      }),
      { numRuns: 60 },
    );
  });

  it("is what a comparison of every range from every sender finds", () => {
    let narrowed = 0;
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.boolean(), (seed, mistakes) => {
        const made = applied(seed, { mistakes });
        if (!made) return;
        const before = NetworkModel.compile(made.plan);
        const after = before.after(made.after);
        const side = ({ world, gateways }: typeof before) => ({ world, gateways });
        const all = everythingSuspect(before.world, after.world);
        if (suspectsOf(before.world, after.world).altered) narrowed++;
        const [few, brute] = [undefined, all].map((suspects) =>
          differenceWithin(side(before), side(after), Number.POSITIVE_INFINITY, suspects).changes.map((c) =>
            changeText(c),
          ),
        );
        expect(few?.sort()).toEqual(brute?.sort());
      }),
      { numRuns: 60 },
    );
    // Most of the edits are of the kind that need not be looked for everywhere.
    expect(narrowed).toBeGreaterThan(10);
  });

  it("leaves alone the flows that it does not tell", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const made = applied(seed, { mistakes: true });
        if (!made) return;
        const before = NetworkModel.compile(made.plan);
        const after = before.after(made.after);
        const suspects = suspectsOf(before.world, after.world);
        const told = new Set(flowChanges(before, after, suspects).map(({ id }) => id));
        const now = NetworkModel.compile(made.after).trips();
        for (const [id, trip] of before.trips()) {
          const then = now.get(id);
          if (trip && then && trip.verdict !== then.verdict) expect(told).toContain(id);
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe("conditions", () => {
  it("come first: what fails on top of them settles as if all had failed at once", () => {
    const engine = engineOf(demoPlan("marrow-bay"));
    const { links, plan } = { links: engine.network.links.planned, plan: engine.network.plan };
    for (let a = 0; a < links; a++) {
      const under = engineUnder(engine, [linkElement(engine.network, a)]);
      for (let b = 0; b < links; b += 3) {
        const both = settle(engine, [a, b]).world;
        const onTop = settle(under, [b]).world;
        expect(onTop.state.watchUp).toEqual(both.state.watchUp);
        expect(onTop.state.interfaceUp).toEqual(both.state.interfaceUp);
      }
    }
    expect(plan.links.length).toBe(links);
  });

  it("hold for the effect of an edit, whose own links and watches may be new", () => {
    const plan = demoPlan("marrow-bay");
    const scenario = NetworkModel.compile(plan).under(["link:tern-north"]);
    const outcome = applyEdit(plan, {
      label: "a device first",
      changes: [
        {
          in: "plan",
          collection: "devices",
          before: null,
          after: { id: "aa", role: "router", interfaces: [{ name: "e" }] },
          index: 0,
        },
      ],
    });
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    const after = scenario.after(outcome.plan);
    expect(after.engine.base).toEqual([findElement(after.engine.network, "link:tern-north")]);
    expect(after.trips().get("tickets")?.verdict).toBe("works");
  });
});

/** A desk behind a, a server behind b, two lines between a and b; b knows the desk by one of them. */
const twoLines = () =>
  planOf({
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      {
        id: "a",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "one", addresses: ["10.0.1.1/30"] },
          { name: "two", addresses: ["10.0.2.1/30"] },
        ],
        routes: [{ to: "10.2.0.0/24", via: "10.0.1.2" }],
      },
      {
        id: "b",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.2.0.1/24"] },
          { name: "one", addresses: ["10.0.1.2/30"] },
          { name: "two", addresses: ["10.0.2.2/30"] },
        ],
        routes: [{ to: "10.1.0.0/24", via: "10.0.1.1" }],
      },
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.2.0.20/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.2.0.1" }],
      },
    ],
    links: [
      { id: "la", medium: "switch", ends: ["desk/e", "a/lan"] },
      { id: "one", ends: ["a/one", "b/one"] },
      { id: "two", ends: ["a/two", "b/two"] },
      { id: "lb", medium: "switch", ends: ["server/e", "b/lan"] },
    ],
    flows: [{ id: "f", from: "desk", to: "10.2.0.20" }],
  });

const added = (device: string, route: StaticRoute): Edit => ({
  label: "add",
  changes: [{ in: "device", device, collection: "routes", before: null, after: route }],
});

describe("rule 4: what becomes of a route that is written", () => {
  const effect = (edit: Edit) => {
    const outcome = impactOf(NetworkModel.compile(twoLines()), edit);
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    return outcome.effect;
  };

  it("names the owner of the next hop, and whom it stands behind", () => {
    const { routes, flows, later } = effect(added("a", { to: "10.2.0.0/24", via: "10.0.2.2", distance: 20 }));
    expect(routes[0]).toMatchObject({
      beatenBy: "10.2.0.0/24 via 10.0.1.2",
      neighbour: { device: "b", interface: "two", answers: true, out: "two" },
    });
    expect(flows).toEqual([]);
    // Once the primary is gone it carries out, and nothing comes back: b still answers by the dead line.
    expect(later).toMatchObject({
      failed: "interface:a/one",
      flows: [{ id: "f", before: { verdict: "fails" }, after: { verdict: "one-way" } }],
    });
    expect(routes[0].wayBack).toMatchObject({ when: "interface:a/one", answered: 0 });
  });

  it("tells that it goes before a wider one, and which addresses go another way", () => {
    const { routes, flows, ranges, wholeSpace } = effect(added("a", { to: "10.2.0.20/32", via: "10.0.2.2" }));
    expect(routes[0]).toMatchObject({
      within: "10.2.0.0/24 via 10.0.1.2",
      wayBack: { asked: 1, answered: 1 },
    });
    expect(flows).toEqual([]);
    expect(wholeSpace).toBe(true);
    expect(groupRanges(ranges, 9).groups).toMatchObject([
      {
        within: "10.2.0.20/32",
        from: expect.arrayContaining(["desk", "a"]),
        parts: 1,
        after: { result: "delivered", at: "server" },
      },
    ]);
  });

  it("tells a next hop that nobody owns, and one that does not resolve", () => {
    expect(effect(added("a", { to: "10.7.0.0/16", via: "10.1.0.77" })).routes[0].ownerless).toBe(true);
    const [lost] = effect(added("a", { to: "10.7.0.0/16", via: "10.66.0.1" })).routes;
    expect(lost.report).toMatchObject({ state: "unusable", reason: { code: "next-hop-unresolved" } });
    expect(lost.neighbour).toBeNull();
  });

  it("is refused with the reason where the edit does not fit", () => {
    const outcome = impactOf(
      NetworkModel.compile(twoLines()),
      added("a", { to: "10.2.0.0/24", via: "10.0.1.2" }),
    );
    expect(outcome).toMatchObject({ ok: false });
  });

  it("keeps to its budget and says that it did", () => {
    const outcome = impactOf(
      NetworkModel.compile(twoLines()),
      added("a", { to: "0.0.0.0/0", discard: "drop" }),
      1,
    );
    expect(outcome.ok && outcome.effect.wholeSpace).toBe(false);
  });

  it("holds under the conditions that it is asked under", () => {
    const before = NetworkModel.compile(twoLines()).under(["link:one"]);
    const outcome = impactOf(before, added("a", { to: "10.2.0.0/24", via: "10.0.2.2" }));
    expect(outcome.ok && outcome.effect.flows).toMatchObject([
      { id: "f", before: { verdict: "fails" }, after: { verdict: "one-way" } },
    ]);
    expect(outcome.ok && outcome.after.trips().get("f")?.verdict).toBe("one-way");
  });
});
