import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  containsAddress,
  containsPrefix,
  parseAddress,
  parsePrefix,
  samePrefix,
} from "../../core/address/index.ts";
import { lookupReport, tableReport } from "../../core/reports/index.ts";
import { NetworkModel, type Scenario } from "../../core/scenario/index.ts";
import { fullPlan } from "../../tests/support/full-plan.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { type RouteFilter, routeColumns, routeFilterOf } from "../search/route-filter.ts";
import { conditionsOf } from "./conditions.ts";
import { deviceAnswer } from "./device.ts";
import { frameOf } from "./frame.ts";
import { type NetworkRoute, routesAnswer } from "./routes.ts";

const open = routeFilterOf(new URLSearchParams());
const looked = (down: string[] = []) => ({ down, moment: null });
const asked = (model: Scenario, filter: Partial<RouteFilter> = {}, down: string[] = []) =>
  routesAnswer(model, model, looked(down), { ...open, ...filter });

/** A route without what the list adds to it. */
type TableRoute = Omit<NetworkRoute, "leavesBy" | "winner">;

/** All routes as the tables of each device tell them, one after the other. */
function everyRoute(model: Scenario): TableRoute[] {
  return model.network.devices.flatMap((device) =>
    device.vrfs.flatMap((vrf) => {
      const report = tableReport(model.world, device.index, vrf);
      const own = report.routes.map((route) => ({
        ...route,
        device: device.id,
        table: vrf === "main" ? "" : vrf,
      }));
      const others = (report.policyTables ?? []).flatMap((table) =>
        table.routes.map((route) => ({ ...route, device: device.id, table: table.name })),
      );
      return [...own, ...others];
    }),
  );
}

const key = ({ device, table, to, via, out, source, state, distance }: TableRoute) =>
  [device, table, to, via, out, source, state, distance].join(" ");
const keys = (routes: readonly TableRoute[]) => routes.map(key).sort();

describe("the routes of the whole network", () => {
  it.each([
    ["the demo", NetworkModel.compile(demoPlan("marrow-bay"))],
    ["a plan with VRFs, policy tables and tunnels", NetworkModel.compile(fullPlan())],
  ])("are those on all devices's own table: %s", (_, model) => {
    for (const down of [[], ["link:tern-north"], ["link:wan"]]) {
      const scenario = model.under(down);
      expect(keys(asked(model, {}, down).routes)).toEqual(keys(everyRoute(scenario)));
    }
  });

  it("are filtered as a comparison route by route says, on random plans", () => {
    fc.assert(
      fc.property(
        fc.nat(100_000),
        fc.nat(100),
        fc.constantFrom("exact", "covering", "covered" as const),
        (seed, pick, relation) => {
          const model = NetworkModel.compile(randomPlan(seed, { mistakes: true }));
          const all = everyRoute(model);
          const text = all[pick % all.length].to;
          const prefix = parsePrefix(text);
          if (!prefix) throw new Error(text);
          const stands = {
            exact: samePrefix,
            covering: containsPrefix,
            covered: (a: typeof prefix, b: typeof prefix) => containsPrefix(b, a),
          };
          const wanted = all.filter((route) =>
            stands[relation as keyof typeof stands](parsePrefix(route.to) as typeof prefix, prefix),
          );
          expect(keys(asked(model, { text, relation: relation as RouteFilter["relation"] }).routes)).toEqual(
            keys(wanted),
          );
        },
      ),
      { numRuns: 40 },
    );
  });

  it("an address finds what would be looked at for it, and what has it as next hop", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const address = parseAddress("172.20.0.1");
    if (!address) throw new Error("no address");
    const wanted = everyRoute(model).filter(
      (route) => route.via === "172.20.0.1" || containsAddress(parsePrefix(route.to) as never, address),
    );
    expect(keys(asked(model, { text: "172.20.0.1" }).routes)).toEqual(keys(wanted));
  });

  it("states, sources, device and words narrow them together", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const { routes, found } = asked(model, { states: ["standby"], sources: ["static"], text: "longhaven" });
    expect(found).toBe(routes.length);
    expect(routes.length).toBeGreaterThan(0);
    for (const route of routes) expect(route).toMatchObject({ state: "standby", source: "static" });
    expect(new Set(asked(model, { device: "tern-edge" }).routes.map((route) => route.device))).toEqual(
      new Set(["tern-edge"]),
    );
    expect(asked(model, { text: "no such thing" }).found).toBe(0);
  });

  it.each(routeColumns)("are sorted by %s, and backwards the other way round", (sort) => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const forward = asked(model, { sort }).routes;
    const backward = asked(model, { sort, descending: true }).routes;
    expect(keys(forward)).toEqual(keys(backward));
    const value = (route: NetworkRoute) =>
      sort === "because" ? (route.reason?.text ?? "") : route[sort as "to"];
    expect(value(forward[0])).toEqual(value(backward.at(-1) as NetworkRoute));
  });

  it("are counted alike here, on the device's page and on the work line", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const down = ["link:tern-north"];
    const answer = asked(model, {}, down);
    const total = Object.values(answer.totals).reduce((sum, count) => sum + count, 0);
    expect(total).toBe(answer.found);
    // A healthy pair's other firewall uses nothing, and nothing is wrong with it.
    const standsBy = (device: string) => device === "hall-fw-2";
    const written = answer.routes.filter(
      ({ source, state, device }) =>
        state === "unusable" &&
        !["connected", "local", "system", "announced"].includes(source) &&
        !standsBy(device),
    );
    expect(frameOf(model, conditionsOf(model, looked(down))).counts.unusable).toBe(written.length);
    for (const { id } of model.network.devices) {
      const own = deviceAnswer(model, model, looked(down), { device: id });
      const here = answer.routes.filter(
        (route) => route.device === id && route.table === "" && route.state === "in-use",
      );
      expect(own?.inUse, id).toBe(here.length);
    }
  });

  it("take states and sources as words of the filter", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const words = asked(model, { text: "static standby longhaven" }).routes;
    expect(words.length).toBeGreaterThan(0);
    expect(keys(words)).toEqual(
      keys(asked(model, { states: ["standby"], sources: ["static"], text: "longhaven" }).routes),
    );
    expect(keys(asked(model, { text: "active" }).routes)).toEqual(
      keys(asked(model, { states: ["in-use"] }).routes),
    );
  });

  it("mark what each device would use for an address", () => {
    fc.assert(
      fc.property(fc.nat(100_000), fc.nat(1000), (seed, pick) => {
        const model = NetworkModel.compile(randomPlan(seed, { mistakes: true }));
        const [text] = everyRoute(model)[pick % everyRoute(model).length].to.split("/");
        const marked = asked(model, { text }).routes.filter(({ winner }) => winner);
        for (const device of model.network.devices) {
          const { matches } = lookupReport(model.world, device.index, "main", parseAddress(text) as never);
          const best = matches.filter(({ state }) => state === "in-use");
          const wanted = best.filter(({ to }) => to === best[0]?.to);
          const own = marked.filter(({ device: id, table }) => id === device.id && table === "");
          expect(own.map(({ to }) => to)).toEqual(wanted.map(({ to }) => to));
        }
      }),
      { numRuns: 30 },
    );
  });

  it("tell the totals before the draft only where there is one", () => {
    const approved = NetworkModel.compile(demoPlan("marrow-bay"));
    const outcome = approved.afterEdit({
      label: "a route more",
      changes: [
        {
          in: "device",
          device: "office-fw",
          collection: "routes",
          before: null,
          after: { to: "198.18.0.0/15", discard: "drop" },
        },
      ],
    });
    if (!outcome.ok) throw new Error("the edit does not fit");
    const answer = routesAnswer(outcome.scenario, approved, looked(), open);
    expect(asked(approved).totalsApproved).toBeNull();
    expect(answer.totals["in-use"]).toBe((answer.totalsApproved?.["in-use"] ?? 0) + 1);
  });
});
