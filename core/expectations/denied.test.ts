import { describe, expect, it } from "vitest";
import { guests } from "../../tests/support/denied-plan.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { findAll } from "../findings/index.ts";
import { elementCount, formatElement } from "../network/index.ts";
import { type Plan, readPlan } from "../plan/index.ts";
import { sweepReport, timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { runbookOf } from "../steps/index.ts";
import { arrivalOf, walkBothWays } from "../walk/index.ts";

const finding = (plan: Plan) =>
  findAll(NetworkModel.compile(plan)).filter(({ code }) => code === "flow-not-denied");

describe("a flow that must be denied", () => {
  it("is judged with nothing failed and under failures, in findings", () => {
    expect(finding(guests({ way: false }))).toEqual([]);
    expect(finding(guests()).map(({ text }) => text)).toEqual([
      expect.stringMatching(
        /^Flow blocked must be denied, but it arrives if one of these fails: .*link:main.*interface:edge\/main/,
      ),
    ]);
    expect(finding(guests({ open: true }))[0].text).toBe("Flow blocked must be denied, but it arrives.");
    const lost = guests({ way: false });
    lost.devices[1].routes = [];
    expect(finding(lost)[0].text).toContain("is lost for another reason: edge has no route");
    // The refusal is expected, so it is no finding and no fix allows it.
    const codes = findAll(NetworkModel.compile(guests())).map(({ code }) => code);
    expect(codes).not.toContain("denied-between-zones");
    expect(codes).not.toContain("flow-fails");
  });

  it("has as its outage the time that it is delivered", () => {
    const model = NetworkModel.compile(guests());
    const [{ nominal, failures }] = sweepReport(model.engine, model.gateways, 1).flows;
    expect(nominal.verdict).toBe("fails");
    const main = failures.find(({ failed }) => failed[0] === "link:main");
    expect(main).toMatchObject({ verdict: "works", outageMs: { min: null, max: null } });
    expect(failures.some(({ failed }) => failed[0] === "device:wall")).toBe(false);
    const steps = model.stepsOf([
      { atMs: 0, fail: ["link:main"] },
      { atMs: 60_000, restore: ["link:main"] },
    ]);
    const [flow] = timelineReport(model.engine, model.gateways, steps).flows;
    const delivered = flow.spans.filter(({ verdict }) => verdict === "works");
    expect(delivered).toHaveLength(1);
    expect(flow.outageMs.max).toBe((delivered[0].toMs as number) - delivered[0].fromMs);
  });

  it("stays denied in every state of a rollout", () => {
    const before = NetworkModel.compile(guests({ way: false }));
    // The route to the servers moves to the other line, and that line's zone is closed first.
    const wanted = guests({ way: false });
    wanted.devices[1].routes = [{ to: "10.9.0.0/24", via: "10.7.2.2" }];
    wanted.devices[2].policy = {
      default: "allow",
      rules: [
        { from: ["guests"], to: ["servers"], action: "deny" },
        { from: ["staff"], to: ["servers"], action: "deny" },
      ],
    };
    const made = runbookOf(before, NetworkModel.compile(wanted));
    expect(made?.runbook.visits.map(({ device }) => device)).toEqual(["wall", "edge"]);
    for (const plan of made?.plans ?? []) {
      const model = NetworkModel.compile(plan);
      const [{ question }] = model.flows();
      expect(arrivalOf(walkBothWays(model.world, question))).not.toBe("arrives");
    }
  });

  it("refuses expectations that make no sense beside it", () => {
    const plan = guests() as unknown as { flows: { expect: object }[] };
    for (const more of [{ carriers: ["x"] }, { maxOutageMs: 5 }]) {
      plan.flows[0].expect = { verdict: "denied", ...more };
      const read = readPlan(JSON.parse(JSON.stringify(plan)));
      expect(read.ok).toBe(false);
      if (!read.ok) expect(read.errors[0].message).toContain("must be denied");
    }
  });

  it("arrives in a sweep where it arrives when each element is failed by itself", () => {
    let arriving = 0;
    for (let seed = 1; seed <= 30; seed++) {
      const draw = new Random(seed);
      const drawn = randomPlan(8100 + seed, { mistakes: true, family: seed % 4 === 0 ? 6 : 4 });
      const plan = {
        ...drawn,
        flows: drawn.flows.map(({ expect: _, ...flow }) =>
          draw.chance(0.7) ? { ...flow, expect: { verdict: "denied" as const } } : flow,
        ),
      };
      const model = NetworkModel.compile(plan);
      if (model.network.watches.length > 0) continue;
      const swept = new Map(
        sweepReport(model.engine, model.gateways, 1).flows.map(({ id, failures }) => [id, failures]),
      );
      for (const { flow, question } of model.flows()) {
        if (!question.mustBeDenied) continue;
        const nominal = arrivalOf(walkBothWays(model.world, question));
        for (let element = 0; element < elementCount(model.network); element++) {
          const ref = formatElement(model.network, element);
          const { world } = model.under([ref]);
          const arrives = arrivalOf(walkBothWays(world, question)) === "arrives";
          if (arrives) arriving++;
          const found = swept.get(flow.id)?.find(({ failed }) => failed[0] === ref);
          const expected = arrives ? null : 0;
          if (found)
            expect([seed, flow.id, ref, found.outageMs.max === null]).toEqual([
              seed,
              flow.id,
              ref,
              expected === null,
            ]);
          else expect([seed, flow.id, ref, nominal === "arrives"]).toEqual([seed, flow.id, ref, arrives]);
        }
      }
    }
    expect(arriving).toBeGreaterThan(100);
  });
});
