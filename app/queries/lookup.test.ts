import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { containsPrefix, formatPrefix, parsePrefix } from "../../core/address/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { planOf } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { deviceAnswer } from "./device.ts";

const looked = { down: [], moment: null };
const network = NetworkModel.compile(
  planOf({
    devices: [
      {
        id: "edge",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.71.2.1/24"] },
          { name: "wan", addresses: ["192.0.2.1/29"] },
        ],
        routes: [
          { to: "10.71.0.0/16", via: "192.0.2.2" },
          { to: "10.71.8.0/24", via: "192.0.2.3" },
          { to: "10.71.9.0/24", via: "192.0.2.2" },
        ],
      },
      { id: "next", role: "router", interfaces: [{ name: "lan", addresses: ["192.0.2.2/29"] }] },
      { id: "desk", role: "host", interfaces: [{ name: "lan", addresses: ["10.71.2.9/24"] }] },
      { id: "other", role: "router", interfaces: [{ name: "lan", addresses: ["192.0.2.3/29"] }] },
    ],
    links: [
      { id: "desk", ends: ["edge/lan", "desk/lan"] },
      { id: "seg", medium: "switch", ends: ["edge/wan", "next/lan", "other/lan"] },
    ],
  }),
);
const lookup = (text: string) =>
  deviceAnswer(network, network, looked, { device: "edge", lookup: text })?.lookup;

describe("the lookup of a prefix", () => {
  it.each([
    ["10.71.2.10/32", "10.71.2.0/24", "All of 10.71.2.10/32 takes this route."],
    ["10.71.2.10/24", "10.71.2.0/24", "Host bits cleared: 10.71.2.0/24."],
    ["10.71.0.0/16", "10.71.0.0/16", "goes elsewhere: 10.71.2.0/24, 10.71.8.0/24"],
    ["10.71.9.0/24", "10.71.9.0/24", "All of 10.71.9.0/24 takes this route."],
    ["10.71.9.0/25", "10.71.9.0/24", "All of 10.71.9.0/25 takes this route."],
    ["10.0.0.0/8", null, "No route covers all of 10.0.0.0/8; 5 more specific routes inside"],
    ["198.51.100.0/24", null, ""],
  ])("%s", (text, answer, note) => {
    expect(lookup(text)?.error).toBeNull();
    expect(lookup(text)?.answer).toBe(answer);
    expect(lookup(text)?.note).toContain(note);
  });

  it("finds the longest active route that covers it, on random plans", () => {
    fc.assert(
      fc.property(fc.nat(100_000), fc.nat(1000), fc.nat(8), (seed, pick, longer) => {
        const model = NetworkModel.compile(randomPlan(seed, { mistakes: true }));
        for (const { id } of model.plan.devices) {
          const table = deviceAnswer(model, model, looked, { device: id })?.stacks ?? [];
          if (table.length === 0) continue;
          const base = parsePrefix(table[pick % table.length].to);
          if (!base) throw new Error("a destination is no prefix");
          const most = base.address.family === 4 ? 32 : 128;
          const asked = { ...base, length: Math.min(most, base.length + longer) };
          const covers = table
            .filter(({ to, candidates }) => {
              const own = parsePrefix(to);
              return own && containsPrefix(own, asked) && candidates.some(({ state }) => state === "in-use");
            })
            .sort((a, b) => b.length - a.length);
          const answer = deviceAnswer(model, model, looked, { device: id, lookup: formatPrefix(asked) });
          expect(answer?.lookup?.answer).toBe(covers[0]?.to ?? null);
        }
      }),
      { numRuns: 30 },
    );
  });
});
