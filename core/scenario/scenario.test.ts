import { describe, expect, it } from "vitest";
import { demoPlan } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { askFrom, NetworkModel, readPlan } from "../index.ts";
import { elementRefs } from "../plan/index.ts";

const model = NetworkModel.compile(demoPlan("marrow-bay"));

describe("a scenario", () => {
  it("is one for the same conditions, in whatever order and however often they are named", () => {
    const under = model.under(["link:tern-north", "device:office-fw"]);
    expect(model.under(["device:office-fw", "link:tern-north", "link:tern-north"])).toBe(under);
    expect(under.down).toEqual(["link:tern-north", "device:office-fw"]);
    expect(model.under([])).toBe(model);
    expect(model.under(["link:no-such-link"])).toBe(model);
  });

  it("with more down is that of both together", () => {
    const both = model.under(["link:tern-north", "link:north-ring"]);
    const stepwise = model.under(["link:tern-north"]).under(["link:north-ring"]);
    expect(stepwise.down).toEqual(both.down);
    for (const [flow, trip] of both.trips()) expect(stepwise.trips().get(flow)?.verdict).toBe(trip?.verdict);
  });

  it("after an edit keeps its conditions, and equals one compiled anew", () => {
    const route = { to: "198.18.0.0/15", discard: "drop" };
    const change = {
      in: "device",
      device: "office-fw",
      collection: "routes",
      before: null,
      after: route,
    } as const;
    const outcome = model
      .under(["link:tern-north"])
      .afterEdit({ label: "a discard route", changes: [change] });
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    const anew = NetworkModel.compile(outcome.scenario.plan).under(["link:tern-north"]);
    expect(outcome.scenario.down).toEqual(["link:tern-north"]);
    for (const [flow, trip] of anew.trips())
      expect(outcome.scenario.trips().get(flow)?.verdict).toBe(trip?.verdict);
  });

  it("tells why an edit does not fit", () => {
    const change = { in: "device", device: "nobody", collection: "routes", before: null, after: {} } as const;
    expect(model.afterEdit({ label: "no", changes: [change] })).toMatchObject({ ok: false });
  });

  it("before an outage begins is itself, and at its end is what has failed", () => {
    const steps = [{ atMs: 0, fail: ["link:tern-north"] }];
    expect(model.at(steps, -1).scenario.world).toBe(model.world);
    const end = model.at(steps, 3_600_000).scenario;
    for (const [flow, trip] of model.under(["link:tern-north"]).trips())
      expect(end.trips().get(flow)?.verdict).toBe(trip?.verdict);
  });

  it("walks every flow once, and remembers", () => {
    expect(model.trips()).toBe(model.trips());
    expect([...model.trips().keys()]).toEqual(model.plan.flows.map((flow) => flow.id));
  });

  it.each(Array.from({ length: 8 }, (_, seed) => seed))(
    "10.1: settles the same however it is reached, random plan %i",
    (seed) => {
      const plan = randomPlan(seed, { mistakes: true });
      const one = NetworkModel.compile(plan);
      for (const ref of elementRefs(plan).slice(0, 12)) {
        const fresh = NetworkModel.compile(plan).under([ref]);
        for (const [flow, trip] of one.under([ref]).trips())
          expect(fresh.trips().get(flow)?.verdict).toBe(trip?.verdict);
      }
    },
  );

  it("answers as the README of the core says", () => {
    const reading = readPlan(JSON.parse(JSON.stringify(demoPlan("marrow-bay"))));
    if (!reading.ok) throw new Error("the demo is unreadable");
    const own = NetworkModel.compile(reading.plan);
    const asked = askFrom(own.network, { from: "tern-desk", to: "203.0.113.70", protocol: "tcp", port: 443 });
    expect(asked.ok && own.under(["link:tern-north"]).trace(asked.question).verdict).toBe("works");
  });
});
