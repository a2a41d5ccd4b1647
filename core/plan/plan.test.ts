import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoPlan, planOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import {
  applyEdit,
  differencePlans,
  type Edit,
  invertEdit,
  type Plan,
  readPlan,
  sameValue,
} from "./index.ts";

const router = (more: Record<string, unknown> = {}) => ({
  id: "r1",
  role: "router",
  interfaces: [{ name: "e1", addresses: ["192.0.2.1/30"] }],
  ...more,
});

function errorsOf(document: Record<string, unknown>): string[] {
  const reading = readPlan({ ironFork: 1, name: "test", ...document });
  return reading.ok ? [] : reading.errors.map((error) => `${error.path}: ${error.message}`);
}

describe("reading a document", () => {
  it("takes the demo plans", () => {
    expect(demoPlan("marrow-bay").devices.length).toBeGreaterThanOrEqual(15);
    expect(demoPlan("three-routers").devices).toHaveLength(5);
  });

  it.each<[string, Record<string, unknown>, RegExp]>([
    ["an unknown key", { devices: [router({ colour: "red" })] }, /^devices\[0\]\.colour: unknown key/],
    [
      "a length that is too long",
      { devices: [router({ routes: [{ to: "10.0.0.0/33", via: "192.0.2.2" }] })] },
      /routes\[0\]\.to: .*0 to 32/,
    ],
    [
      "host bits",
      { devices: [router({ routes: [{ to: "10.0.0.5/24", via: "192.0.2.2" }] })] },
      /the prefix is 10\.0\.0\.0\/24/,
    ],
    [
      "a mask in place of a length",
      { devices: [router({ routes: [{ to: "10.0.0.0/255.255.0.0", via: "192.0.2.2" }] })] },
      /whole number from 0 to 32/,
    ],
    [
      "an interface address that is its subnet's",
      { devices: [router({ interfaces: [{ name: "e1", addresses: ["192.0.2.0/24"] }] })] },
      /network address of 192\.0\.2\.0\/24/,
    ],
    ["a route that goes nowhere", { devices: [router({ routes: [{ to: "10.0.0.0/8" }] })] }, /has no target/],
    [
      "a route of two kinds",
      { devices: [router({ routes: [{ to: "10.0.0.0/8", via: "192.0.2.2", discard: "drop" }] })] },
      /more than one target/,
    ],
    [
      "a next hop of another family",
      { devices: [router({ routes: [{ to: "::/0", via: "192.0.2.2" }] })] },
      /different address families/,
    ],
    [
      "an unknown device",
      { devices: [router()], flows: [{ id: "f", from: "r9", to: "192.0.2.1" }] },
      /^flows\[0\]\.from: there is no device r9/,
    ],
    [
      "an unknown interface",
      { devices: [router({ routes: [{ to: "10.0.0.0/8", out: "e9" }] })] },
      /r1 has no interface e9/,
    ],
    [
      "an unknown watch",
      { devices: [router({ routes: [{ to: "10.0.0.0/8", via: "192.0.2.2", watch: "w" }] })] },
      /r1 has no watch w/,
    ],
    ["a device that stands twice", { devices: [router(), router()] }, /^devices\[1\]: .*appears twice/],
    [
      "a route that stands twice",
      {
        devices: [
          router({
            routes: [
              { to: "10.0.0.0/8", via: "192.0.2.2" },
              { to: "10.0.0.0/8", via: "192.0.2.2", distance: 5 },
            ],
          }),
        ],
      },
      /routes\[1\]: .*appears twice/,
    ],
    [
      "an address that stands twice on a device",
      {
        devices: [
          router({
            interfaces: [
              { name: "e1", addresses: ["192.0.2.1/30"] },
              { name: "e2", addresses: ["192.0.2.1/24"] },
            ],
          }),
        ],
      },
      /it is also on e1/,
    ],
    ["a cable with one end", { devices: [router()], links: [{ id: "l", ends: ["r1/e1"] }] }, /a cable has 2/],
    ["an unknown profile", { devices: [router({ profile: "none-such" })] }, /no profile none-such/],
    [
      "an outage of nothing",
      { devices: [router()], outages: [{ id: "o", steps: [{ atMs: 0, fail: ["link:none"] }] }] },
      /there is no link none/,
    ],
    [
      "a provider's key on a router",
      { devices: [router({ announces: ["192.0.2.0/24"] })] },
      /only a provider can announce/,
    ],
    [
      "a group of watches that holds itself",
      { devices: [router({ watches: [{ id: "g", kind: "group", need: "any", of: ["g"] }] })] },
      /contains itself/,
    ],
    ["a missing name", { name: undefined }, /^name: is missing/],
  ])("refuses %s with its place", (_what, document, wanted) => {
    const errors = errorsOf(document);
    expect(errors.length).toBeGreaterThan(0);
    expect(errors.join("\n")).toMatch(wanted);
  });

  it("refuses what is no plan at all", () => {
    for (const rubbish of [null, 5, "text", [], {}]) expect(readPlan(rubbish).ok).toBe(false);
    expect(errorsOf({ ironFork: 2 })[0]).toMatch(/version must be 1/);
  });

  it("keeps addresses in canonical form", () => {
    const plan = planOf({
      devices: [router({ interfaces: [{ name: "e1", addresses: ["2001:0DB8:0:0::1/64"] }] })],
    });
    expect(plan.devices[0].interfaces[0].addresses).toEqual(["2001:db8::1/64"]);
  });
});

describe("edits", () => {
  const base = planOf({ devices: [router({ routes: [{ to: "10.0.0.0/8", via: "192.0.2.2" }] })] });
  const route = base.devices[0].routes[0];
  const changeRoute = (before: unknown, after: unknown): Edit => ({
    label: "change",
    changes: [{ in: "device", device: "r1", collection: "routes", before, after }],
  });

  it("add, change and remove, and leave the given plan alone", () => {
    const frozen = JSON.stringify(base);
    const added = applyEdit(base, changeRoute(null, { to: "10.1.0.0/16", via: "192.0.2.2" }));
    expect(added.ok && added.plan.devices[0].routes).toHaveLength(2);
    const changed = applyEdit(base, changeRoute(route, { ...route, distance: 20 }));
    expect(changed.ok && changed.plan.devices[0].routes[0].distance).toBe(20);
    const removed = applyEdit(base, changeRoute(route, null));
    expect(removed.ok && removed.plan.devices[0].routes).toHaveLength(0);
    expect(JSON.stringify(base)).toBe(frozen);
  });

  it("are refused where the item has changed since, is gone, is there already, or is wrong", () => {
    const refusal = (edit: Edit) => {
      const outcome = applyEdit(base, edit);
      return outcome.ok ? "" : outcome.errors.map((error) => error.message).join();
    };
    expect(refusal(changeRoute({ ...route, distance: 5 }, null))).toMatch(/has been changed since/);
    expect(refusal(changeRoute({ ...route, via: "192.0.2.3" }, null))).toMatch(/is no longer on r1/);
    expect(refusal(changeRoute(null, route))).toMatch(/is already on r1/);
    expect(refusal(changeRoute(null, { to: "10.0.0.1/8", via: "192.0.2.2" }))).toMatch(/host bits/);
    expect(refusal(changeRoute(null, { to: "10.3.0.0/16", out: "e7" }))).toMatch(/no interface e7/);
  });

  it("difference of two plans leads from one to the other, and its inverse back", () => {
    fc.assert(
      fc.property(fc.nat(10_000), fc.nat(10_000), (a, b) => {
        const from = randomPlan(a, { mistakes: true });
        const to = { ...mutate(from, new Random(b)), name: `random ${b}` };
        const edit = { label: "all", changes: differencePlans(from, to) };
        if (edit.changes.length === 0) return expect(sameItems(from, to)).toBe(true);
        const forward = applyEdit(from, edit);
        if (!forward.ok) throw new Error(forward.errors[0].message);
        expect(sameItems(forward.plan, to)).toBe(true);
        const back = applyEdit(forward.plan, invertEdit(forward.applied));
        if (!back.ok) throw new Error(back.errors[0].message);
        expect(sameValue(back.plan, from)).toBe(true);
      }),
      { numRuns: 60 },
    );
  });
});

/** The same items, whatever their order. */
function sameItems(a: Plan, b: Plan): boolean {
  return differencePlans(a, b).length === 0 && differencePlans(b, a).length === 0;
}

/** Some routes gone, some changed, some new; a description here and there. */
function mutate(plan: Plan, random: Random): Plan {
  return {
    ...plan,
    description: random.chance(0.5) ? "changed" : undefined,
    devices: plan.devices.map((device) => ({
      ...device,
      label: random.chance(0.3) ? `Label ${random.below(9)}` : device.label,
      routes: [
        ...device.routes
          .filter(() => random.chance(0.7))
          .map((route) => (random.chance(0.3) ? { ...route, note: "looked at" } : route)),
        ...(random.chance(0.4) ? [{ to: "198.18.0.0/24", discard: "drop" as const }] : []),
      ],
    })),
  };
}
