import { describe, expect, it } from "vitest";
import { endOf, engineOf, planOf, tripOf, worldWith } from "../../tests/support/plans.ts";
import { pairOfFirewalls, twoGateways } from "../../tests/support/shared-plans.ts";
import { applyEdit, type Edit, type Outage, type Plan, removalOf, renamed } from "../plan/index.ts";
import { timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { outcomeIn } from "../settle/index.ts";
import { askFrom } from "../walk/index.ts";

/** Two routers that watch each other by BFD over a link, with a backup over another one. */
function watched(medium: string, profile = "classic-router"): Plan {
  const end = (id: string, n: number, far: number) => ({
    id,
    role: "router",
    profile,
    interfaces: [
      { name: "main", addresses: [`10.0.0.${n}/30`] },
      { name: "spare", addresses: [`10.0.1.${n}/30`] },
      { name: "lo", kind: "loopback", addresses: [`10.9.${n}.1/32`] },
    ],
    routes: [
      { to: `10.9.${far}.1/32`, via: `10.0.0.${far}`, watch: "peer" },
      { to: `10.9.${far}.1/32`, via: `10.0.1.${far}`, distance: 200, metric: 200 },
    ],
    watches: [
      {
        id: "peer",
        kind: "bfd",
        interface: "main",
        peer: `10.0.0.${far}`,
        minTxMs: 500,
        minRxMs: 500,
        multiplier: n === 1 ? 3 : 5,
      },
    ],
  });
  return planOf({
    devices: [end("a", 1, 2), end("b", 2, 1)],
    links: [
      { id: "main", medium, ends: ["a/main", "b/main"] },
      { id: "spare", medium: "circuit", ends: ["a/spare", "b/spare"] },
    ],
    flows: [{ id: "f", from: "a", source: "10.9.1.1", to: "10.9.2.1" }],
  });
}

function through(plan: Plan, steps: Outage["steps"]) {
  const model = NetworkModel.compile(plan);
  return timelineReport(model.engine, model.gateways, model.stepsOf(steps));
}

const fail = (...refs: string[]): Outage["steps"] => [{ atMs: 0, fail: refs }];
const at = (plan: Plan, steps: Outage["steps"], what: string) =>
  through(plan, steps).events.find((event) => event.what === what)?.atMs;

describe("rule 2.6: a link fails in one direction", () => {
  it("over a circuit: the deaf end goes down by its detection time, the other at once after that", () => {
    const plan = watched("circuit");
    const steps = fail("link:main@b");
    // b hears a's packets: a's multiplier 3 times 500 ms.
    expect(at(plan, steps, "watch b/peer goes down")).toBe(1500);
    expect(at(plan, steps, "watch a/peer goes down")).toBe(1500);
    expect(through(plan, steps).flows[0].outageMs).toEqual({ min: 1000, max: 1500 });
    // The other way it is b's multiplier that counts.
    expect(through(plan, fail("link:main@a")).flows[0].outageMs).toEqual({ min: 2000, max: 2500 });
  });

  it("over a cable: the deaf end loses carrier and sends nothing any more, the far end has carrier", () => {
    const plan = watched("cable");
    const world = worldWith(engineOf(plan), "link:main@b");
    const { carrierUp, network } = world.state;
    expect([carrierUp[network.interfaceIndex.get("a/main") as number]]).toEqual([1]);
    expect([carrierUp[network.interfaceIndex.get("b/main") as number]]).toEqual([0]);
    // a hears nothing any more and needs its whole detection time.
    const steps = fail("link:main@b");
    expect(at(plan, steps, "interface b/main goes down")).toBe(100);
    expect(at(plan, steps, "watch b/peer goes down")).toBe(1500);
    expect(at(plan, steps, "watch a/peer goes down")).toBe(2500);
  });

  it("comes back when the direction does", () => {
    const plan = watched("circuit");
    const steps: Outage["steps"] = [...fail("link:main@b"), { atMs: 10_000, restore: ["link:main@b"] }];
    expect(through(plan, steps).flows[0].spans.at(-1)?.verdict).toBe("works");
    expect(at(plan, steps, "watch a/peer goes up")).toBeGreaterThanOrEqual(10_000);
  });

  const line = (profile: string, medium = "circuit", kind = "ethernet") =>
    planOf({
      profiles: [{ id: "keeps", base: "classic-router" }],
      devices: [
        {
          id: "a",
          role: "router",
          profile,
          interfaces: [{ name: "x", kind, addresses: ["10.0.0.1/30"] }],
        },
        {
          id: "b",
          role: "router",
          profile,
          interfaces: [{ name: "x", kind, addresses: ["10.0.0.2/30"] }],
        },
      ],
      links: [{ id: "l", medium, ends: ["a/x", "b/x"] }],
      flows: [{ id: "f", from: "a", to: "b" }],
    });

  it("lets the deaf end send, so that the flow is one-way, where its family goes on", () => {
    const world = worldWith(engineOf(line("classic-router")), "link:l@a");
    expect(tripOf(world, "a", "10.0.0.2").verdict).toBe("one-way");
    expect(tripOf(world, "b", "10.0.0.1").verdict).toBe("fails");
  });

  it("ends that, once neighbors are forgotten, where they are resolved", () => {
    const plan = line("metric-router");
    const trip = tripOf(worldWith(engineOf(plan), "link:l@a"), "a", "10.0.0.2");
    expect([trip.verdict, endOf(trip)?.code]).toEqual(["fails", "host-not-listening"]);
    const steps = fail("link:l@a");
    expect(at(plan, steps, "a/x can no longer resolve its neighbors: it receives nothing")).toBe(56_000);
    expect(through(plan, steps).flows[0].spans.map(({ verdict }) => verdict)).toEqual(["one-way", "fails"]);
    // A serial line has no neighbor resolution.
    const serial = worldWith(engineOf(line("metric-router", "circuit", "serial")), "link:l@a");
    expect(tripOf(serial, "a", "10.0.0.2").verdict).toBe("one-way");
  });

  it("makes a deaf Backup Active, while the other stays Active", () => {
    const model = NetworkModel.compile(twoGateways({}));
    const { network } = model;
    const activeUnder = (ref: string) =>
      network.virtuals
        .filter(({ index }) => model.under([ref]).world.state.roles.virtualActive[index])
        .map(({ interface: i }) => network.devices[network.interfaces.device[i]].id);
    expect(activeUnder("link:lan@rb")).toEqual(["ra", "rb"]);
    // The host's frames go to the last sender, which is unknown.
    const asked = askFrom(network, network.plan.flows[0]);
    if (!asked.ok) throw new Error(asked.message);
    const under = (ref: string) => model.under([ref]);
    const uncertain = (ref: string) =>
      outcomeIn(under(ref).world, asked.question, under(ref).gateways).uncertain;
    expect(uncertain("link:lan@rb")).toBe(true);
    expect(uncertain("link:lan@ra")).toBe(false);
    // A deaf Active is heard by its Backup, which stays Backup.
    expect(activeUnder("link:lan@ra")).toEqual(["ra"]);
  });

  it("makes the deaf standby of a pair active, while the other stays active", () => {
    const drawn = pairOfFirewalls();
    const plan = { ...drawn, links: drawn.links.map((link) => ({ ...link, medium: "switch" as const })) };
    const [{ heartbeats, members }] = plan.pairs;
    const model = NetworkModel.compile(plan);
    const active = (towards: string) => [
      ...model.under(heartbeats.map((id) => `link:${id}@${towards}`)).world.state.roles.pairActive,
    ];
    expect(active(members[1]).every((one) => one > 0)).toBe(true);
    expect(active(members[0]).filter((one) => one > 0)).toHaveLength(1);
  });

  it("is refused where the device is not on the link, and follows renamed and removed things", () => {
    const outage = (ref: string) => [{ id: "o", steps: [{ atMs: 0, fail: [ref, "device:a"] }] }];
    const plan = line("classic-router");
    const { name: _, ...document } = plan;
    expect(() => planOf({ ...document, outages: outage("link:l@c") })).toThrow(
      "the link l has no end on a device c",
    );
    const saved = planOf({ ...document, outages: outage("link:l@b") });
    expect(renamed(saved, { device: "b" }, "c").outages[0].steps[0].fail).toEqual(["link:l@c", "device:a"]);
    expect(renamed(saved, { link: "l" }, "m").outages[0].steps[0].fail).toEqual(["link:m@b", "device:a"]);
    for (const what of [{ link: "l" }, { device: "b" }, { interface: "b/x" }]) {
      const outcome = applyEdit(saved, removalOf(saved, what) as Edit);
      expect(outcome.ok && outcome.plan.outages[0].steps[0].fail).toEqual(["device:a"]);
    }
  });
});
