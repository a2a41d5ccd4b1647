import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { findAll } from "../core/findings/index.ts";
import { findElement } from "../core/network/index.ts";
import { sweepReport, timelineReport } from "../core/reports/index.ts";
import { Scenario } from "../core/scenario/index.ts";
import { settle } from "../core/settle/index.ts";
import { gatewaysOf } from "../core/walk/index.ts";
import { lessons } from "../demo/lessons.ts";
import { readPlanText } from "../exchange/plan-text.ts";
import { endOf, engineOf, routesOf, tripOf, worldWith } from "./support/plans.ts";

const folder = new URL("../demo/cases/", import.meta.url);

function caseOf(name: string) {
  const reading = readPlanText(readFileSync(new URL(`${name}.yaml`, folder), "utf8"));
  if (!reading.ok) throw new Error(`${name}: ${reading.errors[0].message}`);
  return engineOf(reading.plan);
}

/** Each case with the finding of its mistake, and the device to fix. */
const told: Record<string, [code: string, device: string | null, fixed?: "fixed"]> = {
  "no-way-back": ["missing-return-route", "hall", "fixed"],
  "tested-from-the-exit": ["missing-return-route", "hall", "fixed"],
  "facing-defaults": ["facing-defaults", "terminal"],
  "summary-wider-than-what-exists": ["summary-without-discard", "terminal", "fixed"],
  "summary-swallows": ["summary-swallows", "office", "fixed"],
  "removed-before-the-summary": ["missing-return-route", "office", "fixed"],
  "one-wrong-digit": ["next-hop-silent", "terminal", "fixed"],
  "wrong-mask": ["next-hop-unresolved", "terminal"],
  "backup-of-the-same-distance": ["floating-not-higher", "terminal", "fixed"],
  "backup-never-takes-over": ["floating-never-takes-over", "terminal", "fixed"],
  "bfd-on-one-end": ["bfd-one-end", "terminal", "fixed"],
  "bfd-with-other-timers": ["bfd-timers-differ", "terminal", "fixed"],
  "failover-in-one-direction": ["failover-one-direction", "office"],
  "watch-of-the-first-hop": ["watch-first-hop-only", "terminal", "fixed"],
  "watch-through-the-backup": ["watch-through-backup", "terminal", "fixed"],
  "watched-address-is-a-service": ["pinned-target-used", "terminal"],
  "translation-forgotten": ["translation-missing", "edge", "fixed"],
  "denied-between-zones": ["denied-between-zones", "edge", "fixed"],
  "handed-out-gateway": ["stale-gateway", "edge", "fixed"],
  "second-default-refused": ["second-default-refused", "terminal", "fixed"],
  "host-with-two-gateways": ["sticky-gateways", "desk"],
  "cloud-firewall-without-a-table": ["device-bypassed", "guard"],
  "cloud-table-on-the-appliance": ["cloud-table-on-appliance", "cloud", "fixed"],
  "ipv6-forwarding-off": ["forwarding-off", "terminal", "fixed"],
  "virtual-router-tracks-nothing": ["virtual-untracked", "left", "fixed"],
  "lowering-too-small": ["virtual-lowering-too-small", "left", "fixed"],
  // Rule 16.3.
  "two-lines-in-one-duct": ["backup-shares-fate", "left"],
  "pair-that-forgets": ["sessions-break", null],
  "link-local-without-interface": ["link-local-without-interface", "terminal"],
};

describe("the mistakes that cost people evenings", () => {
  it("are all told here", () => {
    const files = readdirSync(folder).filter((name) => name.endsWith(".yaml"));
    expect(files.map((name) => name.replace(".yaml", "")).sort()).toEqual(Object.keys(told).sort());
  });

  it("are all offered as lessons, each with something to try", () => {
    expect(lessons.map((lesson) => lesson.file).sort()).toEqual(Object.keys(told).sort());
    for (const { attempt, topic } of lessons)
      expect(Math.min(attempt.length - 20, topic.length)).toBeGreaterThan(0);
  });

  it.each(Object.entries(told))("%s", (name, [code, device, fixed]) => {
    const findings = findAll(new Scenario(caseOf(name).network.plan, caseOf(name)));
    const found = findings.find((finding) => finding.code === code);
    expect(found?.device).toBe(device);
    expect(found?.text.length).toBeGreaterThan(20);
    expect(found?.evidence.length).toBeGreaterThan(0);
    if (fixed) expect(found?.fixes.length).toBeGreaterThan(0);
  });

  it("tested from the router's exit it works, from the network behind it nothing comes back", () => {
    const { world } = caseOf("tested-from-the-exit").healthy;
    expect(tripOf(world, "terminal", "timetable").verdict).toBe("works");
    expect(tripOf(world, "desk", "timetable").verdict).toBe("one-way");
  });

  it("defaults that face each other bounce packets for what nobody owns", () => {
    const { world } = caseOf("facing-defaults").healthy;
    expect(tripOf(world, "desk", "198.18.5.5").worst.outbound.result).toBe("looped");
  });

  it("a backup that never takes over: the circuit dies, the table stays, packets die", () => {
    const engine = caseOf("backup-never-takes-over");
    const world = worldWith(engine, "link:north-line");
    const states = routesOf(world, "terminal")
      .filter((r) => r.to === "0.0.0.0/0")
      .map((r) => [r.via, r.state]);
    expect(states).toEqual([
      ["172.20.255.2", "in-use"],
      ["172.20.255.6", "standby"],
    ]);
    expect(endOf(tripOf(world, "desk", "server"))?.code).toBe("link-dead");
  });

  it("an unpinned watch flaps, and the engine says so instead of choosing a state", () => {
    const engine = caseOf("watch-through-the-backup");
    const ring = findElement(engine.network, "link:ring") as number;
    const settled = settle(engine, [ring]);
    expect(settled.flapping.length).toBeGreaterThan(1);
    const report = timelineReport(engine, gatewaysOf(engine.healthy.world), [
      { atMs: 0, fail: [ring], restore: [] },
    ]);
    expect(report.events.at(-1)?.what).toMatch(/does not settle: watches flap every \d+(\.\d+)? s/);
    expect(report.flows[0].outageMs.max).toBeNull();
  });

  it("translation forgotten is silence, not an unreachable network", () => {
    const { world } = caseOf("translation-forgotten").healthy;
    expect(tripOf(world, "desk", "203.0.113.80", { protocol: "tcp", port: 443 }).verdict).toBe("works");
    const camera = tripOf(world, "camera", "203.0.113.80", { protocol: "tcp", port: 443 });
    expect(camera.worst.outbound.result).toBe("delivered");
    expect(endOf(camera)?.code).toBe("private-at-internet");
  });

  it("a host that moved to its second gateway stays there when the first is back", () => {
    const engine = caseOf("host-with-two-gateways");
    const [outage] = engine.network.plan.outages;
    const [flow] = timelineReport(
      engine,
      gatewaysOf(engine.healthy.world),
      new Scenario(engine.network.plan, engine).stepsOf(outage.steps),
    ).flows;
    expect(flow.spans.at(-1)).toMatchObject({ verdict: "works", carriers: ["right"], toMs: null });
    expect(flow.outageMs).toEqual({ min: 10_000, max: 30_000 });
    expect(flow.lost).toEqual({ min: 100, max: 300 });
  });

  it("a table of the appliance's own subnet sends its packets back to it; attached to the apps alone it does not", () => {
    const engine = caseOf("cloud-table-on-the-appliance");
    expect(tripOf(engine.healthy.world, "app", "203.0.113.80").worst.outbound.result).toBe("looped");
    const [finding] = findAll(new Scenario(engine.network.plan, engine)).filter(
      (f) => f.code === "cloud-table-on-appliance",
    );
    expect(finding.fixes).toHaveLength(1);
  });

  it("the sweep tells for each what a single failure does", () => {
    const engine = caseOf("failover-in-one-direction");
    const [flow] = sweepReport(engine, gatewaysOf(engine.healthy.world), 1).flows;
    const line = flow.failures.find((f) => f.failed.join() === "link:north-line");
    expect(line).toMatchObject({ verdict: "one-way", outageMs: { min: null, max: null } });
    const radio = flow.failures.find((f) => f.failed.join() === "link:radio-line");
    expect(radio).toBeUndefined();
  });
});
