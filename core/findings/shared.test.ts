import { describe, expect, it } from "vitest";
import { firewalls, learnt, probe, sharedTwins, tracking } from "../../tests/support/shared-mistakes.ts";
import { pairOfFirewalls, twoGateways } from "../../tests/support/shared-plans.ts";
import { applyEdit, type Plan } from "../plan/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { findAll } from "./index.ts";

const codes = (plan: Plan) =>
  findAll(NetworkModel.compile(plan), { fixes: false }).map((finding) => finding.code);

describe("checks of what several share (rules 14 to 19)", () => {
  it.each(sharedTwins.map(([code, trips, twin], i) => [`${code} ${i}`, code, trips, twin] as const))(
    "%s: trips, and its near twin does not",
    (_name, code, trips, twin) => {
      expect(codes(trips)).toContain(code);
      expect(codes(twin)).not.toContain(code);
    },
  );

  it.each([
    ["virtual-untracked", twoGateways()],
    ["virtual-lowering-too-small", tracking(10)],
    ["virtual-tracking-without-preempt", tracking(30, { b: { preempt: false } })],
    ["virtual-members-differ", twoGateways({ b: { addresses: ["172.20.16.9"] } })],
    ["virtual-equal-priorities", twoGateways({ b: { priority: 110 } })],
    ["virtual-probe-through-backup", probe()],
    ["virtual-split", firewalls(110, 90)],
    ["returns-too-early", learnt(0)],
    ["pair-differs", pairOfFirewalls({ b: { routes: [] } })],
  ] as const)("%s: has a fix that removes it", (code, plan) => {
    const found = findAll(NetworkModel.compile(plan)).find((finding) => finding.code === code);
    expect(found?.fixes.length).toBeGreaterThan(0);
    const outcome = applyEdit(plan, found?.fixes[0].edit as never);
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    expect(codes(outcome.plan)).not.toContain(code);
  });

  it("judges the routes of one that stands by as if it were active", () => {
    const routes = (via: string) => ({ routes: [{ to: "0.0.0.0/0", via }] });
    const sound = codes(pairOfFirewalls());
    expect(sound).not.toContain("next-hop-unresolved");
    expect(sound).not.toContain("route-unusable");
    const wrong = findAll(NetworkModel.compile(pairOfFirewalls({ b: routes("192.0.2.1") })), {
      fixes: false,
    });
    expect(wrong.filter(({ code }) => code === "next-hop-unresolved").map(({ device }) => device)).toEqual([
      "fwb",
    ]);
  });
});
