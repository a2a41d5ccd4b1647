import { describe, expect, it } from "vitest";
import { fullPlan } from "../../tests/support/full-plan.ts";
import { demoChanged, demoPlan } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { applyEdit, invertEdit, type Plan, removalOf, sameValue } from "./index.ts";

function without(plan: Plan, what: Parameters<typeof removalOf>[1]): Plan {
  const edit = removalOf(plan, what);
  if (!edit) throw new Error("nothing to remove");
  const outcome = applyEdit(plan, edit);
  if (!outcome.ok) throw new Error(outcome.errors.map((error) => error.message).join("; "));
  const back = applyEdit(outcome.plan, invertEdit(outcome.applied));
  expect(back.ok && sameValue(back.plan, plan)).toBe(true);
  return outcome.plan;
}

describe("removing what other things refer to", () => {
  it.each(["marrow-bay", "three-routers"])("leaves a sound plan, and is undone exactly: %s", (name) => {
    const plan = demoPlan(name);
    for (const device of plan.devices) {
      const rest = without(plan, { device: device.id });
      expect(rest.links.flatMap((link) => link.ends).some((end) => end.startsWith(`${device.id}/`))).toBe(
        false,
      );
      for (const port of device.interfaces) without(plan, { interface: `${device.id}/${port.name}` });
    }
    for (const link of plan.links) without(plan, { link: link.id });
    for (const gateway of plan.gateways) without(plan, { gateway: gateway.id });
    for (const device of plan.devices)
      for (const watch of device.watches) {
        const rest = without(plan, { watch: watch.id, of: device.id });
        const left = rest.devices.find(({ id }) => id === device.id);
        // Routes bound to it remain, without the binding.
        expect(left?.routes).toHaveLength(device.routes.length);
        expect(left?.routes.some((route) => route.watch === watch.id)).toBe(false);
      }
  });

  it("leaves a sound plan where everything refers to everything", () => {
    const plan = fullPlan();
    for (const device of plan.devices) {
      for (const port of device.interfaces) without(plan, { interface: `${device.id}/${port.name}` });
      without(plan, { device: device.id });
    }
    for (const link of plan.links) without(plan, { link: link.id });
    for (const gateway of plan.gateways) without(plan, { gateway: gateway.id });
    for (const device of plan.devices)
      for (const watch of device.watches) {
        const rest = without(plan, { watch: watch.id, of: device.id });
        const left = rest.devices.find(({ id }) => id === device.id);
        // Routes bound to it remain, without the binding.
        expect(left?.routes).toHaveLength(device.routes.length);
        expect(left?.routes.some((route) => route.watch === watch.id)).toBe(false);
      }
  });

  it("holds for random plans", () => {
    for (let seed = 0; seed < 40; seed++) {
      const plan = randomPlan(seed);
      for (const device of plan.devices) without(plan, { device: device.id });
    }
  });

  it("says what goes along", () => {
    const plan = demoPlan("marrow-bay");
    expect(removalOf(plan, { device: "tern-desk" })?.label).toBe(
      "Remove Tern ticket desk, with a link and 2 flows",
    );
    expect(removalOf(plan, { interface: "tern-edge/wan1" })?.label).toContain("with a link and a gateway");
    const changed = demoChanged();
    const bound = changed.devices.find(({ routes }) => routes.some(({ watch }) => watch !== undefined));
    const watch = bound?.routes.find((route) => route.watch !== undefined)?.watch ?? "";
    expect(removalOf(changed, { watch, of: bound?.id ?? "" })?.label).toMatch(
      /^Remove the watch \S+ of .+ and detach (a route|\d+ routes)$/,
    );
    expect(removalOf(plan, { device: "nobody" })).toBeNull();
  });
});
