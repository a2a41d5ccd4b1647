import { describe, expect, it } from "vitest";
import { ANY, back, backFloating, floating, lab, mistakes, primary } from "../../tests/support/mistakes.ts";
import { demoPlan, engineOf, planOf } from "../../tests/support/plans.ts";
import { sharedTwins } from "../../tests/support/shared-mistakes.ts";
import { applyEdit } from "../plan/index.ts";
import { differenceOf } from "../reachability/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { checks, findAll } from "./index.ts";

const codes = (plan: ReturnType<typeof planOf>) =>
  findAll(NetworkModel.compile(plan), { fixes: false }).map((finding) => finding.code);

describe("every check", () => {
  it.each(mistakes.map(([code, trips, twin], i) => [`${code} ${i}`, code, trips, twin] as const))(
    "%s: trips, and its near twin does not",
    (_name, code, trips, twin) => {
      expect(codes(trips)).toContain(code);
      expect(codes(twin)).not.toContain(code);
    },
  );

  it("asymmetric-firewall: a stateful device that replies pass and the flow does not", () => {
    const plan = (via: string) =>
      planOf({
        devices: [
          {
            id: "desk",
            role: "host",
            interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
            routes: [{ to: ANY, via: "10.1.0.1" }],
          },
          {
            id: "r1",
            role: "router",
            interfaces: [
              { name: "lan", addresses: ["10.1.0.1/24"] },
              { name: "x", addresses: ["10.9.0.1/24"] },
            ],
            routes: [{ to: "10.2.0.0/24", via: "10.9.0.2" }],
          },
          {
            id: "fw",
            role: "firewall",
            interfaces: [{ name: "x", addresses: ["10.9.0.3/24"] }],
            routes: [{ to: "10.1.0.0/24", via: "10.9.0.1" }],
            policy: { default: "deny", sameZone: "deny", rules: [] },
          },
          {
            id: "r2",
            role: "router",
            interfaces: [
              { name: "x", addresses: ["10.9.0.2/24"] },
              { name: "lan", addresses: ["10.2.0.1/24"] },
            ],
            routes: [{ to: "10.1.0.0/24", via }],
          },
          {
            id: "server",
            role: "host",
            interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
            routes: [{ to: ANY, via: "10.2.0.1" }],
          },
        ],
        links: [
          { id: "la", medium: "switch", ends: ["desk/e", "r1/lan"] },
          { id: "x", medium: "switch", ends: ["r1/x", "r2/x", "fw/x"] },
          { id: "lb", medium: "switch", ends: ["server/e", "r2/lan"] },
        ],
        flows: [{ id: "f", from: "desk", to: "server" }],
      });
    expect(codes(plan("10.9.0.3"))).toContain("asymmetric-firewall");
    expect(codes(plan("10.9.0.1"))).not.toContain("asymmetric-firewall");
  });

  it("single-point-of-failure: told with its elements where a flow must survive one, gone with a second way", () => {
    // r1 and r2 stay single points themselves; the twin asks for nothing.
    const [finding] = findAll(NetworkModel.compile(lab({ expect: { survive: 1 } })), { fixes: false }).filter(
      (f) => f.code === "single-point-of-failure",
    );
    expect(finding.text).toContain("link:a");
    const withBackup = lab({
      expect: { survive: 1 },
      routes1: [primary, floating],
      routes2: [back, backFloating],
    });
    const [left] = findAll(NetworkModel.compile(withBackup), { fixes: false }).filter(
      (f) => f.code === "single-point-of-failure",
    );
    expect(left.text).not.toContain("link:a");
    expect(codes(lab())).not.toContain("single-point-of-failure");
  });

  it("tunnel-through-itself: where the way to the far end leads into the tunnel", () => {
    const tunnel = (more: unknown[]) =>
      planOf({
        devices: [
          {
            id: "r1",
            role: "router",
            interfaces: [
              { name: "w", addresses: ["192.0.2.1/30"] },
              { name: "t", kind: "tunnel", addresses: ["10.9.0.0/31"], underlay: { to: "192.0.2.2" } },
            ],
            routes: more,
          },
          {
            id: "r2",
            role: "router",
            interfaces: [
              { name: "w", addresses: ["192.0.2.2/30"] },
              { name: "t", kind: "tunnel", addresses: ["10.9.0.1/31"], underlay: { to: "192.0.2.1" } },
            ],
          },
        ],
        links: [{ id: "w", ends: ["r1/w", "r2/w"] }],
      });
    expect(codes(tunnel([{ to: "192.0.2.2/32", out: "t" }]))).toContain("tunnel-through-itself");
    expect(codes(tunnel([]))).not.toContain("tunnel-through-itself");
  });

  it("has a code of its own, and is told by a test here or among the named mistakes", () => {
    const all = checks.map((check) => check.code);
    expect(new Set(all).size).toBe(all.length);
    const here = new Set([
      ...[...mistakes, ...sharedTwins].map(([code]) => code),
      "single-point-of-failure",
      "tunnel-through-itself",
    ]);
    const elsewhere = [
      "link-local-without-interface",
      "second-default-refused",
      "watch-through-backup",
      "watch-first-hop-only",
      "pinned-target-used",
      "bfd-one-end",
      "bfd-timers-differ",
      "summary-swallows",
      "denied-between-zones",
      // In expectations/denied.test.ts.
      "flow-not-denied",
      // In trust.test.ts.
      "route-unusable",
      "learned-without-time",
      // In gaps.test.ts.
      "bundle-settings-differ",
    ];
    expect(all.filter((code) => !here.has(code) && !elsewhere.includes(code))).toEqual([]);
  });
});

describe("fixes", () => {
  it("that write routes shorter change nothing for any address, and put the summary in before the rest comes out", () => {
    const plan = lab({ routes1: [primary, { to: "10.2.1.0/24", via: "192.0.2.2" }] });
    const finding = findAll(NetworkModel.compile(plan)).find((f) => f.code === "routes-replaceable");
    const changes = finding?.fixes[0]?.edit.changes ?? [];
    expect(changes.map((change) => (change.after ? "in" : "out"))).toEqual(["in", "out", "out"]);
    const outcome = finding && applyEdit(plan, finding.fixes[0].edit);
    if (!outcome?.ok) throw new Error("the fix does not apply");
    const side = (p: typeof plan) => ({ world: engineOf(p).healthy.world, gateways: [] });
    expect(differenceOf(side(plan), side(outcome.plan))).toEqual([]);
    expect(outcome.plan.devices[1].routes.map((route) => route.to)).toEqual(["10.2.0.0/23"]);
  });

  it("of the demo mend the unnoticed circuit, the missing return path and the facing defaults, each alone and all together", () => {
    let plan = demoPlan("marrow-bay");
    for (const code of ["watch-first-hop-only", "missing-return-route", "facing-defaults"]) {
      const finding = findAll(NetworkModel.compile(plan)).find((f) => f.code === code);
      expect(finding?.fixes.length).toBeGreaterThan(0);
      const outcome = finding && applyEdit(plan, finding.fixes[0].edit);
      if (!outcome?.ok) throw new Error(code);
      plan = outcome.plan;
    }
    const left = codes(plan);
    for (const code of ["watch-first-hop-only", "missing-return-route", "facing-defaults", "flow-fails"])
      expect(left).not.toContain(code);
  });
});
