import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readPlan } from "./index.ts";

const MANY = 1200;

/** A plan of one router with `MANY` plain routes and some others among them. */
function planWith(extra: Record<string, unknown>[], place: number) {
  const routes: Record<string, unknown>[] = Array.from({ length: MANY }, (_, n) => ({
    to: `10.${n >> 8}.${n & 255}.0/24`,
    via: "192.0.2.2",
  }));
  routes.splice(place, 0, ...extra);
  const port = { name: "lan", addresses: ["192.0.2.1/24"] };
  return {
    ironFork: 1,
    name: "large",
    devices: [{ id: "edge", role: "router", interfaces: [port], routes }],
    links: [],
  };
}

/** The same routes in a list short enough for the schema. */
function readAlone(extra: Record<string, unknown>[]) {
  const small = planWith([], 0);
  return readPlan({ ...small, devices: [{ ...small.devices[0], routes: extra }] });
}

describe("many plain routes", () => {
  it("are read as the schema reads them", () => {
    const read = readPlan(planWith([], 0));
    if (!read.ok) throw new Error(read.errors[0].message);
    expect(read.plan.devices[0].routes).toHaveLength(MANY);
    expect(read.plan.devices[0].routes[300]).toEqual({ to: "10.1.44.0/24", via: "192.0.2.2" });
    const few = readAlone(planWith([], 0).devices[0].routes.slice(0, 50));
    expect(few.ok && few.plan.devices[0].routes).toEqual(read.plan.devices[0].routes.slice(0, 50));
  });

  it("among which one is wrong or odd are told as if they were few, at its place", () => {
    const odd = fc.constantFrom<Record<string, unknown>>(
      { to: "10.99.0.1/24", via: "192.0.2.2" },
      { to: "10.99.0.0/024", via: "192.0.2.2" },
      { to: "10.99.0.0/08", via: "192.0.2.2" },
      { to: "10.99.0.0/33", via: "192.0.2.2" },
      { to: "10.99.0.0/24", via: "2001:db8::2" },
      { to: "2001:db8::/32", via: "2001:db8::2" },
      { to: "010.99.0.0/24", via: "192.0.2.2" },
      { to: "10.99.0.0/24", via: "192.0.2.256" },
      { to: "10.99.0.0/24", via: "192.0.2.2", color: "red" },
      { to: "10.99.0.0/24" },
      { to: "10.99.0.0/24", via: "192.0.2.2", distance: 7 },
      { to: "10.99.0.0/24", via: 7 },
    );
    fc.assert(
      fc.property(odd, fc.nat(MANY), (route, place) => {
        const [among, alone] = [readPlan(planWith([route], place)), readAlone([route])];
        expect(among.ok).toBe(alone.ok);
        if (among.ok && alone.ok)
          expect(among.plan.devices[0].routes[place]).toEqual(alone.plan.devices[0].routes[0]);
        if (among.ok || alone.ok) return;
        const at = (n: number) => (error: { path: string; message: string }) => ({
          ...error,
          path: error.path.replace(`routes[${n}]`, "routes[?]").replace(`routes.${n}`, "routes.?"),
        });
        expect(among.errors.map(at(place))).toEqual(alone.errors.map(at(0)));
      }),
      { numRuns: 60 },
    );
  });

  it("of which two are the same are refused, both places told", () => {
    const read = readPlan(planWith([{ to: "10.1.44.0/24", via: "192.0.2.2" }], MANY));
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.errors[0].message).toContain("appears twice");
  });
});
