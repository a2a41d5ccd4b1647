import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hubSpoke } from "../../bench/fleets/hub-spoke.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import type { Device, Plan } from "../plan/index.ts";
import { createEngine } from "../settle/index.ts";
import { flowQuestions } from "../walk/index.ts";
import { compile } from "./compile.ts";
import type { Network } from "./network.ts";

/** All that is compiled of a plan, as plain data; texts that are read as such are left out. */
function told({ candidates, groups, devices, fates, watches, twin, virtuals }: Network) {
  const plain = (columns: object) =>
    Object.entries(columns).map(([name, column]) => [
      name,
      typeof column === "number" ? column : Array.from(column),
    ]);
  return JSON.stringify([
    plain(candidates),
    plain(groups),
    devices.map(({ policy, ...device }) => [device, policy?.rules]),
    fates,
    watches.map(({ index, device, port, partner, members }) => [index, device, port, partner, members]),
    Array.from(twin),
    virtuals,
  ]);
}

/** Edits of one device, each of another kind. */
const edits: ((device: Device) => Device)[] = [
  (device) => ({
    ...device,
    watches: [...device.watches, { id: "one-more", kind: "interface", interface: device.interfaces[0].name }],
  }),
  (device) => ({ ...device, routes: device.routes.slice(1) }),
  (device) => ({
    ...device,
    routes: [
      { to: device.routes[0]?.to.includes(":") ? "2001:db8:99::/48" : "198.18.9.0/24", discard: "drop" },
      ...device.routes,
    ],
  }),
  (device) => ({
    ...device,
    interfaces: [...device.interfaces, { name: "one-more", addresses: ["198.18.3.1/24"] }],
  }),
  (device) => ({ ...device, site: "elsewhere" }),
  (device) => ({ ...device, label: "Renamed" }),
  (device) => ({ ...device, forwarding: { ipv4: false, ipv6: false } }),
];

function edited(plan: Plan, d: number, kind: number): Plan | null {
  const device = plan.devices[d % plan.devices.length];
  if (device.interfaces.length === 0) return null;
  return { ...plan, devices: plan.devices.map((one) => (one === device ? edits[kind](device) : one)) };
}

describe("a network compiled after another", () => {
  const plans: [string, numRuns: number, (seed: number) => Plan][] = [
    ["random plans", 30, (seed) => randomPlan(seed, { mistakes: true })],
    ["the demo", 6, () => demoPlan("marrow-bay")],
    ["hub and spoke with watches and tunnels", 10, () => hubSpoke(4)],
  ];

  it.each(plans)("%s: is that which is compiled by itself, edit after edit", (_, numRuns, planOf) => {
    fc.assert(
      fc.property(
        fc.nat(100_000),
        fc.array(fc.tuple(fc.nat(50), fc.nat(edits.length - 1)), { minLength: 1, maxLength: 3 }),
        (seed, list) => {
          let plan = planOf(seed);
          let engine = createEngine(compile(plan));
          flowQuestions(engine.network);
          for (const [d, kind] of list) {
            const next = edited(plan, d, kind);
            if (!next) continue;
            plan = next;
            engine = createEngine(compile(plan, engine.network), engine);
            const anew = createEngine(compile(plan));
            expect(told(engine.network)).toBe(told(anew.network));
            expect(engine.gateways).toEqual(anew.gateways);
            expect(flowQuestions(engine.network)).toEqual(flowQuestions(anew.network));
          }
        },
      ),
      { numRuns },
    );
  });
});
