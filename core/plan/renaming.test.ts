import { describe, expect, it } from "vitest";
import { fullPlan } from "../../tests/support/full-plan.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { compile } from "../network/index.ts";
import { createEngine } from "../settle/index.ts";
import { flowQuestions, walkBothWays } from "../walk/index.ts";
import {
  applyEdit,
  invertEdit,
  type Plan,
  type RenamingTarget,
  renamed,
  renamingOf,
  sameValue,
} from "./index.ts";

function everyName(
  plan: Plan,
): { what: RenamingTarget; back: (to: string) => RenamingTarget; from: string }[] {
  return [
    ...(["device", "link", "gateway", "profile"] as const).flatMap((kind) =>
      plan[`${kind}s`].map(({ id }) => ({
        what: { [kind]: id } as RenamingTarget,
        back: (to: string) => ({ [kind]: to }) as RenamingTarget,
        from: id,
      })),
    ),
    ...plan.devices.flatMap((device) => [
      ...device.interfaces.map(({ name }) => ({
        what: { interface: name, of: device.id },
        back: (to: string) => ({ interface: to, of: device.id }),
        from: name,
      })),
      ...device.watches.map(({ id }) => ({
        what: { watch: id, of: device.id },
        back: (to: string) => ({ watch: to, of: device.id }),
        from: id,
      })),
      ...[...new Set(device.interfaces.flatMap((port) => port.zone ?? []))].map((zone) => ({
        what: { zone, of: device.id },
        back: (to: string) => ({ zone: to, of: device.id }),
        from: zone,
      })),
    ]),
  ];
}

const verdicts = (plan: Plan) => {
  const engine = createEngine(compile(plan));
  return flowQuestions(engine.network).map(
    ({ question }) => walkBothWays(engine.healthy.world, question).verdict,
  );
};

describe("renaming takes every reference along", () => {
  const plans: [string, Plan][] = [
    ["a plan that refers in every way", fullPlan()],
    ["three routers", demoPlan("three-routers")],
    ...Array.from({ length: 12 }, (_, seed): [string, Plan] => [`random ${seed}`, randomPlan(seed)]),
  ];
  it.each(plans)("gives a sound plan that behaves alike, and back gives the same: %s", (_, plan) => {
    const before = verdicts(plan);
    for (const { what, back, from } of everyName(plan)) {
      const edit = renamingOf(plan, what, "renamed-1");
      if (!edit) throw new Error(`nothing is named ${JSON.stringify(what)}`);
      const outcome = applyEdit(plan, edit);
      expect(outcome.ok ? [] : outcome.errors).toEqual([]);
      if (!outcome.ok) return;
      expect(sameValue(renamed(outcome.plan, back("renamed-1"), from), renamed(plan, what, from))).toBe(true);
      expect([...verdicts(outcome.plan)].sort()).toEqual([...before].sort());
      const undone = applyEdit(outcome.plan, invertEdit(outcome.applied));
      expect(undone.ok && sameValue(undone.plan, plan)).toBe(true);
    }
  });

  it("leaves no trace of the old name of an interface but in text that people wrote", () => {
    const after = renamed(fullPlan(), { interface: "out", of: "wall" }, "uplink");
    const { label: _label, ...outage } = after.outages[0];
    const text = JSON.stringify([after.devices, after.links, after.gateways, after.flows, outage]);
    expect(text).not.toMatch(/"out"[^:]|wall\/out|%out/);
  });

  it("tells what it does, and null where there is nothing of the name", () => {
    expect(renamingOf(fullPlan(), { watch: "peer", of: "wall" }, "far")?.label).toBe(
      "Rename the watch peer to far",
    );
    expect(renamingOf(fullPlan(), { link: "nothing" }, "far")).toBeNull();
  });
});
