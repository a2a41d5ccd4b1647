import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoChanged, demoPlan, planOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { withWatches } from "../../tests/support/random-extras.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { compareAddress, containsAddress, formatPrefix, lastOf } from "../address/index.ts";
import { attachmentsOf } from "../network/index.ts";
import { applyEdit, type Change, describeChange, type Plan, type StaticRoute } from "../plan/index.ts";
import { entryPoints, isOfInterest, prefixesOfRange, probeOf, rangesOf } from "../reachability/index.ts";
import { NetworkModel, type Scenario } from "../scenario/index.ts";
import { carriersOfTrip, walkBothWays, walkPacket } from "../walk/index.ts";
import { draftOf } from "./atoms.ts";
import { type Helpers, type Outcome, planAfter, planWith, type Runbook, runbookOf } from "./index.ts";

/** Drafts that are tried; RUNS=500 for more. */
const RUNS = Number(process.env.RUNS ?? 15);

/** Another plan: a few routes and watches of a random one added, removed or changed. */
function drafted(plan: Plan, random: Random, count: number): Plan {
  let now = plan;
  for (let n = 0; n < count; n++) {
    const device = random.pick(now.devices.filter(({ role }) => role === "router"));
    const route = device.routes.length ? random.pick(device.routes) : null;
    const others = now.devices.flatMap(({ routes }) => routes).filter(({ via }) => via);
    const fresh = {
      to: `10.1.${random.below(5)}.0/${random.pick([24, 25])}`,
      discard: "drop",
    } as StaticRoute;
    const choices: { before: StaticRoute | null; after: StaticRoute | null }[] = [
      { before: route, after: null },
      { before: null, after: fresh },
      { before: route, after: route && { ...route, distance: 1 + random.below(3) } },
    ];
    if (others.length && route?.via)
      choices.push({ before: null, after: { ...random.pick(others), via: route.via, watch: undefined } });
    const change = {
      in: "device",
      device: device.id,
      collection: "routes",
      ...random.pick(choices),
    } as Change;
    if (!change.before && !change.after) continue;
    const outcome = applyEdit(now, { label: "draft", changes: [change] });
    if (outcome.ok) now = outcome.plan;
  }
  return now;
}

function draftOfRandom(seed: number, random: Random): [Plan, Plan] {
  const base = randomPlan(seed, { family: seed % 7 ? 4 : 6 });
  const plan = seed % 2 ? base : withWatches(base, random);
  return [plan, drafted(plan, random, 2 + random.below(4))];
}

/** Two routers with a LAN each and one or two links, of which the first is renumbered, at both ends or in one end's
 * routes only. */
function renumbered(
  random: Random,
  {
    lines = 1 + random.below(2),
    floats = random.chance(0.6),
    both = random.chance(0.8),
  }: { lines?: number; floats?: boolean; both?: boolean } = {},
): [Plan, Plan] {
  const build = (net: string, routesNet: string) => {
    const router = (id: string, own: number, far: number) => ({
      id,
      role: "router",
      profile: "classic-router",
      interfaces: [
        { name: "lan", addresses: [`10.1.${own}.1/24`] },
        ...Array.from({ length: lines }, (_, l) => ({
          name: `l${l}`,
          addresses: [`${l ? `10.9.${l}` : net}.${own}/30`],
        })),
      ],
      routes: [
        { to: `10.1.${far}.0/24`, via: `${own === 1 ? net : routesNet}.${far}` },
        ...(lines > 1 && floats ? [{ to: `10.1.${far}.0/24`, via: `10.9.1.${far}`, distance: 50 }] : []),
      ],
    });
    const host = (id: string, lan: number) => ({
      id,
      role: "host",
      interfaces: [{ name: "e", addresses: [`10.1.${lan}.9/24`] }],
      routes: [{ to: "0.0.0.0/0", via: `10.1.${lan}.1` }],
    });
    return planOf({
      devices: [router("a", 1, 2), router("b", 2, 1), host("ha", 1), host("hb", 2)],
      links: [
        { id: "la", ends: ["a/lan", "ha/e"] },
        { id: "lb", ends: ["b/lan", "hb/e"] },
        ...Array.from({ length: lines }, (_, l) => ({ id: `l${l}`, ends: [`a/l${l}`, `b/l${l}`] })),
      ],
      flows: [{ id: "there", from: "ha", to: "10.1.2.9" }],
    });
  };
  return [build("10.9.0", "10.9.0"), build("10.8.0", both ? "10.8.0" : "10.9.0")];
}

interface Bad {
  readonly flows: number;
  readonly subnets: number;
  /** Unused prefixes for which a device's packets loop. */
  readonly loops: number;
}

/** The disruptions of a state for each sender, subnet and range, computed by full walks. */
function badIn(before: Scenario, state: Scenario, after: Scenario): Bad {
  const all = [before, state, after];
  const standing = (scenario: Scenario, id: string) => {
    const asked = scenario.flows().find(({ flow }) => flow.id === id);
    if (!asked) return null;
    const trip = walkBothWays(scenario.world, asked.question);
    return {
      works: trip.verdict === "works",
      carriers: carriersOfTrip(scenario.gateways, trip).map((g) => scenario.gateways[g].id),
    };
  };
  const flows = before.plan.flows.filter(({ id }) => {
    const [old, now, then] = all.map((scenario) => standing(scenario, id));
    if (!old?.works || !then?.works) return false;
    return !now?.works || now.carriers.some((c) => !old.carriers.includes(c) && !then.carriers.includes(c));
  }).length;
  const subnets = [
    ...new Map(
      all
        .flatMap(({ network }) => attachmentsOf(network))
        .map(({ prefix }) => [formatPrefix(prefix), prefix]),
    ).values(),
  ];
  const bad = new Set<string>();
  const circles = new Set<string>();
  for (const family of [4, 6] as const) {
    for (const range of rangesOf(
      all.map(({ network }) => network),
      family,
    ).filter(isOfInterest)) {
      const held = subnets.filter(
        (subnet) =>
          subnet.address.family === family &&
          containsAddress(subnet, range.first) &&
          compareAddress(range.last, lastOf(subnet)) <= 0,
      );
      const isOwned = subnets.some(
        (subnet) => subnet.address.family === family && containsAddress(subnet, range.first),
      );
      for (const device of entryPoints(before.world)) {
        const [old, now, then] = all.map(({ world }) => {
          const walks = walkPacket(world, probeOf(device, range));
          return (walks.find(({ result }) => result !== "delivered") ?? walks[0]).result;
        });
        const falls = now !== "delivered" && old === "delivered" && then === "delivered";
        const loops = now === "looped" && old !== "looped" && then !== "looped";
        if (loops && !isOwned)
          for (const prefix of prefixesOfRange(range)) circles.add(`${formatPrefix(prefix)} ${device}`);
        if (falls || loops) for (const subnet of held) bad.add(`${formatPrefix(subnet)} ${device}`);
      }
    }
  }
  return { flows, subnets: bad.size, loops: circles.size };
}

/** How many flows that work before and after take another path in one state than in another, outward or back. */
function movedBetween(a: Scenario, b: Scenario, before: Scenario, after: Scenario): number {
  const tripIn = (scenario: Scenario, id: string) => {
    const asked = scenario.flows().find(({ flow }) => flow.id === id);
    return asked ? walkBothWays(scenario.world, asked.question) : null;
  };
  const pathIn = (scenario: Scenario, id: string) => {
    const { devices, interfaces } = scenario.network;
    return tripIn(scenario, id)?.branches.map(({ outbound, reply }) =>
      [outbound, reply].map((walk) =>
        walk?.hops.map(({ device, out }) => [devices[device].id, interfaces.names[out] ?? null]),
      ),
    );
  };
  return before.plan.flows.filter(
    ({ id }) =>
      [before, after].every((scenario) => tripIn(scenario, id)?.verdict === "works") &&
      JSON.stringify(pathIn(a, id)) !== JSON.stringify(pathIn(b, id)),
  ).length;
}

/** The least that any order breaks, by trying every one: flows and subnets summed over its states, and visits. */
function bruteForce(
  from: Plan,
  to: Plan,
  held: readonly Plan[] = [from, to],
): [number, number, number] | null {
  const { steps } = draftOf(from, to);
  const [before, after] = held.map((plan) => NetworkModel.compile(plan));
  const known = new Map<string, { plan: Plan; bad: Bad } | null>();
  const stateOf = (done: readonly number[], plan: Plan, step: number) => {
    const key = [...done, step].sort((a, b) => a - b).join();
    if (!known.has(key)) {
      const { index: _, ...change } = steps[step].change as Change & { index?: number };
      const outcome = applyEdit(plan, { label: "step", changes: [change as Change] });
      const last = done.length + 1 === steps.length;
      const bad =
        outcome.ok && !last
          ? badIn(before, NetworkModel.compile(outcome.plan), after)
          : { flows: 0, subnets: 0, loops: 0 };
      known.set(key, outcome.ok ? { plan: outcome.plan, bad } : null);
    }
    return known.get(key) ?? null;
  };
  let best: [number, number, number] | null = null;
  const go = (done: number[], plan: Plan, sum: [number, number, number]) => {
    if (done.length === steps.length) {
      if (!best || sum.find((value, n) => value !== best?.[n]) === undefined) best ??= sum;
      const at = sum.findIndex((value, n) => value !== (best as number[])[n]);
      if (at >= 0 && sum[at] < best[at]) best = sum;
      return;
    }
    for (const [n, step] of steps.entries()) {
      if (done.includes(n)) continue;
      const state = stateOf(done, plan, n);
      if (!state) continue;
      const visit = done.length && steps[done[done.length - 1]].device === step.device ? 0 : 1;
      go([...done, n], state.plan, [sum[0] + state.bad.flows, sum[1] + state.bad.subnets, sum[2] + visit]);
    }
  };
  go([], from, [0, 0, 0]);
  return best;
}

/** Another order of what a runbook says may be done in any: all its runs shuffled. */
function reordered({ visits, anyOrder }: Runbook, random: Random): Change[] {
  const shuffledRuns = <T>(items: readonly T[], runs: readonly (readonly number[])[]): T[] => {
    const order = [...items];
    for (const run of runs) {
      const mixed = random.shuffled(run.map((n) => items[n - 1]));
      for (const [i, n] of run.entries()) order[n - 1] = mixed[i];
    }
    return order;
  };
  return shuffledRuns(visits, anyOrder).flatMap((visit) =>
    shuffledRuns(visit.steps, visit.anyOrder).map((step) => step.do),
  );
}

/** Checks that no state of another order breaks more than those of the given order. */
function expectAnyOrder(plan: Plan, wanted: Plan, runbook: Runbook, random: Random) {
  if (!runbook.safe) return;
  const [before, after] = [plan, wanted].map((one) => NetworkModel.compile(one));
  for (let round = 0; round < 2; round++) {
    let now = plan;
    for (const change of reordered(runbook, random)) {
      const { index: _, ...free } = change as Change & { index?: number };
      const made = applyEdit(now, { label: "step", changes: [free as Change] });
      if (!made.ok) throw new Error(`not in any order: ${made.errors[0].message}`);
      now = made.plan;
      if (draftOf(now, wanted).steps.length > 0)
        expect(badIn(before, NetworkModel.compile(now), after)).toEqual({ flows: 0, subnets: 0, loops: 0 });
    }
  }
}

/** Checks the disruptions that helper routes avoid: every order with them is tried and judged by the plans without. */
function expectHelpers(plan: Plan, wanted: Plan, helpers: Helpers) {
  const changes = helpers.routes.map(
    ({ device, route }): Change => ({
      in: "device",
      device,
      collection: "routes",
      before: null,
      after: route,
    }),
  );
  const [from, to] = [plan, wanted].map((one) => {
    const made = applyEdit(one, { label: "helpers", changes });
    if (!made.ok) throw new Error(made.errors[0].message);
    return made.plan;
  });
  const without = bruteForce(plan, wanted);
  const best = bruteForce(from, to, [plan, wanted]);
  if (!best || !without) throw new Error("no order at all");
  expect(best[0] === 0 && best[1] === 0).toBe(helpers.safe);
  expect(helpers.saves.length).toBeGreaterThan(0);
  expect(best[0]).toBeLessThanOrEqual(without[0]);
}

describe("the order of a change", () => {
  it(
    "harms as little, in as few visits, as the best of all orders",
    () => {
      let unsafe = 0;
      let safe = 0;
      fc.assert(
        fc.property(fc.nat(1_000_000), (seed) => {
          const random = new Random(seed);
          const [plan, wanted] = seed % 3 === 0 ? renumbered(random) : draftOfRandom(seed, random);
          const { steps } = draftOf(plan, wanted);
          const [before, after] = [NetworkModel.compile(plan), NetworkModel.compile(wanted)];
          if (
            steps.length === 0 ||
            steps.length > 6 ||
            before.settled.flapping.length ||
            after.settled.flapping.length
          )
            return;
          const outcome = runbookOf(before, after);
          const best = bruteForce(plan, wanted);
          expect(outcome === null).toBe(best === null);
          if (!outcome || !best) return;
          const { runbook, plans } = outcome;
          expect(runbook.safe).toBe(best[0] === 0 && best[1] === 0);
          expect(runbook.visits.length).toBe(best[2]);
          if (runbook.safe) safe++;
          else unsafe++;
          expect(plans.at(-1)).toBe(wanted);
          // The steps, one after the other, make the plan that was wanted.
          let now = plan;
          let moved = 0;
          for (const visit of runbook.visits) {
            let circles = 0;
            for (const { do: change } of visit.steps) {
              const { index: _, ...free } = change as Change & { index?: number };
              const made = applyEdit(now, { label: "step", changes: [free as Change] });
              if (!made.ok) throw new Error(made.errors[0].message);
              const [was, is] = [now, made.plan].map((one) => NetworkModel.compile(one));
              moved += movedBetween(was, is, before, after);
              now = made.plan;
              if (draftOf(now, wanted).steps.length > 0) circles += badIn(before, is, after).loops;
            }
            if (visit.loops.length > 0) expect(circles).toBeGreaterThan(0);
            const lasts = runbook.visits.some(({ loops }) => loops.length > 0);
            if (circles > 0) expect(lasts).toBe(true);
          }
          expect(runbook.moved).toBe(moved);
          const { alternative } = runbook;
          if (alternative) {
            const other = runbookOf(before, after, "traffic")?.runbook;
            expect(alternative).toEqual({
              prefer: "traffic",
              visits: other?.visits.length,
              moved: other?.moved,
            });
            expect(alternative.moved).toBeLessThan(moved);
            expect(other?.safe).toBe(true);
          }
          expect(draftOf(now, wanted).steps).toEqual([]);
          expectAnyOrder(plan, wanted, runbook, random);
          if (runbook.helpers) {
            expectHelpers(plan, wanted, runbook.helpers);
          }
          if (runbook.safe)
            expect(runbook.visits.flatMap(({ breaks, unreached }) => [...breaks, ...unreached])).toEqual([]);
          else
            expect(runbook.visits.some(({ breaks, unreached }) => breaks.length + unreached.length > 0)).toBe(
              true,
            );
        }),
        // One draft that is safe and one that is not, whatever the others are.
        { numRuns: RUNS, examples: [[2], [9]] },
      );
      expect(safe).toBeGreaterThan(0);
      expect(unsafe).toBeGreaterThan(0);
    },
    3000 * RUNS,
  );

  it("finds routes that lead around a line while it is renumbered", () => {
    const [plan, wanted] = renumbered(new Random(3), { lines: 2, floats: false, both: true });
    const { runbook } = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted)) as Outcome;
    expect(runbook.safe).toBe(false);
    expect(runbook.helpers).toMatchObject({ saves: ["there"], safe: true });
    expectHelpers(plan, wanted, runbook.helpers as Helpers);
    const [one, other] = renumbered(new Random(3), { lines: 1, floats: false, both: true });
    expect(runbookOf(NetworkModel.compile(one), NetworkModel.compile(other))?.runbook.helpers).toBe(null);
  });

  it("says of routes for different destinations on two devices that the order does not matter", () => {
    const plan = demoPlan("three-routers");
    const spare = (n: number): StaticRoute => ({ to: `10.77.${n}.0/24`, discard: "drop" });
    const devices = plan.devices.map((device, n) =>
      device.role === "router" ? { ...device, routes: [...device.routes, spare(n), spare(n + 50)] } : device,
    );
    const wanted = planOf({ ...plan, devices } as never);
    const { runbook } = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted)) as Outcome;
    expect(runbook.visits.map(({ anyOrder }) => anyOrder)).toEqual(runbook.visits.map(() => [[1, 2]]));
    expect(runbook.anyOrder).toEqual([runbook.visits.map((_, n) => n + 1)]);
    expect(runbook.visits.length).toBeGreaterThan(1);
  });

  it("gives the plan as it stands after each step, and none for a runbook of other plans", () => {
    const plan = demoPlan("three-routers");
    const wanted = planOf({
      ...plan,
      devices: plan.devices.map((d) => ({ ...d, routes: d.routes.slice(1) })),
    } as never);
    const { runbook, plans } = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted)) as Outcome;
    let steps = 0;
    for (const [n, visit] of runbook.visits.entries()) {
      steps += visit.steps.length;
      expect(planAfter(plan, wanted, runbook, steps)).toEqual(plans[n]);
    }
    expect(steps).toBeGreaterThan(2);
    expect(planAfter(plan, wanted, runbook, 0)).toBe(plan);
    expect(planAfter({ ...plan, devices: [] }, wanted, runbook, 1)).toBe(null);
  });

  it("with some steps done in whatever order, the plan is the same", () => {
    const [plan, wanted] = [demoPlan("marrow-bay"), demoChanged()];
    const runbook = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted))?.runbook;
    if (!runbook) throw new Error("no order");
    const count = runbook.visits.reduce((sum, { steps }) => sum + steps.length, 0);
    const all = Array.from({ length: count }, (_, n) => n);
    for (const steps of [1, 4, count - 1]) {
      const done = all.slice(0, steps);
      expect(planWith(plan, wanted, runbook, done)).toEqual(planAfter(plan, wanted, runbook, steps));
      // A route that is bound to a watch cannot be entered before it, and is after it.
      const reversed = planWith(plan, wanted, runbook, done.toReversed());
      expect(reversed && draftOf(reversed, planAfter(plan, wanted, runbook, steps) as Plan).steps).toEqual(
        [],
      );
    }
    expect(planWith(plan, wanted, runbook, all.toReversed())).toBe(wanted);
    expect(planWith(plan, wanted, runbook, [])).toBe(plan);
  });

  it("puts a watch before the route that needs it, and a new way before the old one goes", () => {
    const plan = demoPlan("three-routers");
    const west = plan.devices.find(({ id }) => id === "west");
    const [old] = west?.routes ?? [];
    const probe = {
      id: "far",
      kind: "probe",
      target: "10.0.12.2",
      intervalMs: 1000,
      timeoutMs: 500,
      failAfter: 3,
      recoverAfter: 3,
    };
    const devices = plan.devices.map((device) =>
      device.id === "west"
        ? { ...device, watches: [probe], routes: [{ ...old, watch: "far" }, ...device.routes.slice(1)] }
        : device,
    );
    const wanted = planOf({ ...plan, devices } as never);
    const outcome = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted));
    expect(outcome?.runbook.safe).toBe(true);
    expect(outcome?.runbook.visits).toHaveLength(1);
    expect(
      outcome?.runbook.visits[0].steps.map(({ do: change }) => "collection" in change && change.collection),
    ).toEqual(["watches", "routes"]);
  });

  it("of the ferry company's change is safe: six routes to one, a floating way with a watch on both ends, a way back", () => {
    const plan = demoPlan("marrow-bay");
    const wanted = demoChanged();
    const outcome = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted));
    const visits = outcome?.runbook.visits ?? [];
    expect(outcome?.runbook.safe).toBe(true);
    expect(new Set(visits.map(({ device }) => device)).size).toBe(5);
    const sentences = visits.flatMap(({ steps }) => steps.map(({ texts }) => texts.sentence));
    expect(sentences).toHaveLength(15);
    const place = (part: string) => sentences.findIndex((sentence) => sentence.includes(part));
    expect(place("Add the route 172.20.96.0/21 via")).toBeGreaterThanOrEqual(0);
    expect(place("Add the route 172.20.96.0/21 via")).toBeLessThan(place("Remove the route 172.20.96.0/24"));
    // Disruptions in a state are verified for every flow again.
    const [before, after] = [plan, wanted].map((one) => NetworkModel.compile(one));
    for (const state of outcome?.plans ?? []) {
      for (const [id, trip] of NetworkModel.compile(state).trips()) {
        const both =
          before.trips().get(id)?.verdict === "works" && after.trips().get(id)?.verdict === "works";
        if (both) expect(trip?.verdict).toBe("works");
      }
    }
  });

  it("takes away a device with its link and its flows, and puts in another", () => {
    const plan = demoPlan("three-routers");
    const gone = "east-desk";
    const wanted = planOf({
      ...plan,
      devices: [
        ...plan.devices.filter(({ id }) => id !== gone),
        { id: "depot", role: "host", interfaces: [{ name: "e", addresses: ["10.3.0.77/24"] }], routes: [] },
      ],
      links: plan.links.filter(({ ends }) => ends.every((end) => !end.startsWith(`${gone}/`))),
      flows: plan.flows.filter(
        ({ from, to }) => ![from, to].some((end) => end.includes(gone) || end.startsWith("10.3.0.")),
      ),
    } as never);
    for (const [one, other] of [
      [plan, wanted],
      [wanted, plan],
    ]) {
      const outcome = runbookOf(NetworkModel.compile(one), NetworkModel.compile(other));
      expect(outcome?.runbook.safe).toBe(true);
      expect(outcome?.plans.at(-1)).toBe(other);
    }
  });

  it("of nothing is no visit", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    expect(runbookOf(model, NetworkModel.compile(model.plan))?.runbook).toEqual({
      safe: true,
      proven: { states: 0, flows: 11, subnets: 39 },
      moved: 0,
      alternative: null,
      visits: [],
      anyOrder: [],
      helpers: null,
      unproven: [],
    });
  });

  it("says of a change what is done, and what differs", () => {
    const route = { to: "10.0.0.0/8", via: "192.0.2.1" } as StaticRoute;
    const of = (before: StaticRoute | null, after: StaticRoute | null) =>
      describeChange({ in: "device", device: "edge", collection: "routes", before, after });
    expect(of(null, route)).toBe("Add the route 10.0.0.0/8 via 192.0.2.1 on edge");
    expect(of(route, null)).toBe("Remove the route 10.0.0.0/8 via 192.0.2.1 on edge");
    expect(of(route, { ...route, distance: 20 })).toBe(
      "Change the route 10.0.0.0/8 via 192.0.2.1 on edge: distance 20",
    );
  });

  it("tells of a list what differs in it, not the whole of it", () => {
    const virtual = (...list: object[]) => ({ name: "lan", addresses: ["172.20.16.2/24"], virtual: list });
    const [first, second] = [
      { id: 16, addresses: ["172.20.16.1"], priority: 110, preempt: true, track: [] },
      { id: 17, addresses: ["172.20.16.3"], priority: 90, preempt: false, track: [] },
    ];
    const told = (before: object | null, after: object | null) =>
      describeChange({ in: "device", device: "edge", collection: "interfaces", before, after } as Change);
    expect(told(virtual(first, second), virtual({ ...first, priority: 80 }, second))).toBe(
      "Change the interface lan on edge: virtual router (16 priority 80)",
    );
    expect(told(virtual(first), virtual(second))).toBe(
      "Change the interface lan on edge: virtual router (17 addresses 172.20.16.3 priority 90 no preempt), without (16)",
    );
    expect(told(virtual(first, second), virtual(second, first))).toBe(
      "Change the interface lan on edge: virtual router reordered",
    );
    const tracking = { ...first, track: [{ watch: "far", lower: 30 }] };
    expect(told(virtual(first), virtual(tracking))).toContain(
      "(16 tracks (watch far lowers priority by 30))",
    );
    expect(told(virtual(tracking), virtual(first))).toContain("(16 tracks none)");
  });

  it("forms and changes a pair between its members, after them and before they go", () => {
    const plan = demoPlan("cases/pair-that-forgets");
    const [pair] = plan.pairs;
    const alone = { ...plan, pairs: [] };
    const stepsOf = (from: Plan, to: Plan) =>
      runbookOf(NetworkModel.compile(from), NetworkModel.compile(to))?.runbook.visits.flatMap(
        ({ device, steps }) => steps.map(({ texts }) => `${device}: ${texts.sentence}`),
      );
    expect(stepsOf(alone, plan)).toEqual([
      expect.stringMatching(/^null: Add the pair walls: .*members wall-a, wall-b/),
    ]);
    expect(stepsOf(plan, { ...plan, pairs: [{ ...pair, syncStates: true }] })).toEqual([
      "null: Change the pair walls: session state synchronized",
    ]);
    const bare = {
      ...alone,
      outages: [],
      devices: plan.devices.filter(({ id }) => id !== "wall-b"),
      links: plan.links
        .map((link) => ({ ...link, ends: link.ends.filter((end) => !end.startsWith("wall-b/")) }))
        .filter(({ id }) => id !== "beat"),
    };
    const grown = stepsOf(bare, plan) ?? [];
    const at = (words: string) => grown.findIndex((step) => step.includes(words));
    expect(at("Add the device wall-b")).toBeLessThan(at("Add the pair walls"));
    const shrunk = stepsOf(plan, bare) ?? [];
    expect(shrunk.findIndex((step) => step.includes("Remove the pair"))).toBeLessThan(
      shrunk.findIndex((step) => step.includes("Remove the device")),
    );
  });
});

describe("loops in space that nobody owns", () => {
  /** core – yard, which has two LANs and a default route towards core. */
  const depot = (core: object[], yard: object[], second = true) =>
    planOf({
      devices: [
        {
          id: "core",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "yard", addresses: ["192.0.2.1/30"] },
            { name: "second", addresses: ["192.0.2.5/30"], enabled: second },
          ],
          routes: core,
        },
        {
          id: "yard",
          role: "router",
          interfaces: [
            { name: "core", addresses: ["192.0.2.2/30"] },
            { name: "second", addresses: ["192.0.2.6/30"] },
            { name: "a", addresses: ["10.2.0.1/24"] },
            { name: "b", addresses: ["10.2.1.1/24"] },
          ],
          routes: yard,
        },
        ...["10.1.0", "10.2.0", "10.2.1"].map((net, n) => ({
          id: `h${n}`,
          role: "host",
          interfaces: [{ name: "e", addresses: [`${net}.10/24`] }],
          routes: [{ to: "0.0.0.0/0", via: `${net}.1` }],
        })),
      ],
      links: [
        { id: "yard", ends: ["core/yard", "yard/core"] },
        { id: "second", ends: ["core/second", "yard/second"] },
        { id: "l0", ends: ["h0/e", "core/lan"] },
        { id: "l1", ends: ["h1/e", "yard/a"] },
        { id: "l2", ends: ["h2/e", "yard/b"] },
      ],
      flows: [{ id: "f", from: "h0", to: "h1" }],
    });
  const one = { to: "10.2.0.0/24", via: "192.0.2.2" };
  const two = { to: "10.2.1.0/24", via: "192.0.2.2" };
  const summary = { to: "10.2.0.0/22", via: "192.0.2.2" };
  const home = { to: "0.0.0.0/0", via: "192.0.2.1" };
  const discard = { to: "10.2.0.0/22", discard: "drop" };
  const ordered = (from: Plan, to: Plan) => {
    const outcome = runbookOf(NetworkModel.compile(from), NetworkModel.compile(to));
    if (!outcome) throw new Error("no order");
    return outcome.runbook;
  };

  it("the discard of a summary goes first where that costs no visit", () => {
    const runbook = ordered(depot([one, two], [home]), depot([summary], [home, discard]));
    expect(runbook.visits.map(({ device }) => device)).toEqual(["yard", "core"]);
    expect(runbook.visits.flatMap(({ loops }) => loops)).toEqual([]);
    expect(runbook.safe).toBe(true);
    expect(runbook.proven).toMatchObject({ states: 3, flows: 1 });
  });

  it("otherwise it is told what loops, and until when", () => {
    // The yard's default moves to a line that core's visit brings up: core goes first, and its summary with it.
    const before = depot([one, two], [home], false);
    const after = depot([summary], [{ ...home, via: "192.0.2.5" }, discard]);
    const { safe, visits } = ordered(before, after);
    expect(safe).toBe(true);
    expect(visits.map(({ device }) => device)).toEqual(["core", "yard"]);
    const unused = ["10.2.2.0/23"];
    expect([...new Set(visits[0].loops.map(({ range }) => range))]).toEqual(unused);
    expect(visits[0].loops.every(({ until }) => until === 2)).toBe(true);
    expect(visits[1].loops).toEqual([]);
  });

  it("a summary without a discard loops for good: that is no matter of the order", () => {
    const runbook = ordered(depot([one, two], [home]), depot([summary], [home]));
    expect(runbook.visits.flatMap(({ loops }) => loops)).toEqual([]);
  });
});
