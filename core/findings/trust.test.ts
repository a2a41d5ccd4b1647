import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { readPlanText } from "../../exchange/plan-text.ts";
import { linkLocalPlan } from "../../tests/support/link-local-plan.ts";
import { engineOf, planOf, tripOf } from "../../tests/support/plans.ts";
import { findElement } from "../network/index.ts";
import { applyEdit, type Plan } from "../plan/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { engineUnder } from "../settle/index.ts";
import { findAll, findingChanges } from "./index.ts";

const ANY = "0.0.0.0/0";
const found = (plan: Plan, code: string) =>
  findAll(NetworkModel.compile(plan)).filter((f) => f.code === code);

function host(id: string, address: string, via: string) {
  return {
    id,
    role: "host",
    interfaces: [{ name: "e", addresses: [address] }],
    routes: [{ to: ANY, via }],
  };
}

/** Two routers with two cables between them, a host behind each. */
function twoRouters(routes1: unknown[], routes2: unknown[], more: Record<string, unknown> = {}) {
  return planOf({
    devices: [
      host("desk", "10.1.0.10/24", "10.1.0.1"),
      {
        id: "r1",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "a", addresses: ["192.0.2.1/30"] },
          { name: "b", addresses: ["192.0.2.5/30"] },
        ],
        routes: routes1,
        ...more,
      },
      {
        id: "r2",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.2.0.1/24"] },
          { name: "a", addresses: ["192.0.2.2/30"] },
          { name: "b", addresses: ["192.0.2.6/30"] },
        ],
        routes: routes2,
      },
      host("server", "10.2.0.10/24", "10.2.0.1"),
    ],
    links: [
      { id: "la", ends: ["desk/e", "r1/lan"] },
      { id: "a", ends: ["r1/a", "r2/a"] },
      { id: "b", ends: ["r1/b", "r2/b"] },
      { id: "lb", ends: ["server/e", "r2/lan"] },
    ],
    flows: [{ id: "f", from: "desk", to: "server" }],
  });
}

describe("findings that do not mislead", () => {
  const back = [{ to: "10.1.0.0/24", via: "192.0.2.1" }];

  it("a backup over the other cable to the only other router shares nothing that could be helped", () => {
    const plan = twoRouters(
      [
        { to: "10.2.0.0/24", via: "192.0.2.2" },
        { to: "10.2.0.0/24", via: "192.0.2.6", distance: 20 },
      ],
      back,
    );
    expect(found(plan, "backup-shares-fate")).toEqual([]);
  });

  it("a summary by the right neighbour swallows nothing, whatever goes wrong behind it", () => {
    const plan = twoRouters([{ to: "10.0.0.0/8", via: "192.0.2.2" }], []);
    expect(found(plan, "summary-swallows")).toEqual([]);
  });

  it("facing defaults: the wrong default goes, the right specific route stays", () => {
    const plan = twoRouters(
      [{ to: ANY, via: "192.0.2.2" }],
      [
        { to: ANY, via: "192.0.2.1" },
        { to: "10.1.0.0/24", via: "192.0.2.1" },
      ],
    );
    const [finding] = found(plan, "facing-defaults");
    expect(finding.fixes.map((fix) => fix.label)).toEqual([
      "Remove the default 0.0.0.0/0 via 192.0.2.1 of r2",
    ]);
    expect(found(plan, "route-never-used").flatMap((f) => f.fixes.map((fix) => fix.label))).toEqual([]);
    const outcome = applyEdit(plan, finding.fixes[0].edit);
    if (!outcome.ok) throw new Error("does not apply");
    expect(tripOf(engineOf(outcome.plan).healthy.world, "desk", "server").verdict).toBe("works");
  });

  it("a default that shares the load with a management default is told, and its fix lets it stand by", () => {
    const plan = twoRouters(
      [
        { to: ANY, via: "192.0.2.2" },
        { to: ANY, via: "192.0.2.6" },
      ],
      back,
      {
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "a", addresses: ["192.0.2.1/30"] },
          { name: "b", kind: "management", addresses: ["192.0.2.5/30"] },
        ],
      },
    );
    const [finding] = found(plan, "unintended-sharing");
    expect(finding).toMatchObject({ device: "r1", subject: "0.0.0.0/0 via 192.0.2.6" });
    expect(finding.fixes[0].label).toContain("distance 11");
    const plain = twoRouters(
      [
        { to: ANY, via: "192.0.2.2" },
        { to: ANY, via: "192.0.2.6" },
      ],
      back,
    );
    expect(found(plain, "unintended-sharing")).toEqual([]);
  });

  it("a hand-made default against a handed-out one: the newcomer is refused", () => {
    const plan = planOf({
      devices: [
        {
          id: "fw",
          role: "firewall",
          profile: "interface-firewall",
          interfaces: [
            { name: "a", addresses: ["192.0.2.1/30"] },
            { name: "b", addresses: ["192.0.2.5/30"], gatewayFrom: "dhcp" },
          ],
          routes: [{ to: ANY, via: "192.0.2.2", out: "a" }],
        },
        { id: "p", role: "router", interfaces: [{ name: "e", addresses: ["192.0.2.2/30"] }] },
        { id: "q", role: "router", interfaces: [{ name: "e", addresses: ["192.0.2.6/30"] }] },
      ],
      links: [
        { id: "a", ends: ["fw/a", "p/e"] },
        { id: "b", ends: ["fw/b", "q/e"] },
      ],
    });
    expect(found(plan, "second-default-refused").map((f) => f.subject)).toEqual([
      "0.0.0.0/0 via 192.0.2.2 out a",
    ]);
  });

  it("a watch that needs the route that it withdraws is told, and pinning it is the fix", () => {
    const routes = (watch: Record<string, unknown>) => [
      { to: "10.2.0.0/24", via: "192.0.2.2", watch: "far" },
      watch,
    ];
    const plan = twoRouters([routes({})[0]], back, {
      watches: [{ id: "far", kind: "probe", target: "10.2.0.1" }],
    });
    const [finding] = found(plan, "watch-needs-itself");
    expect(finding).toMatchObject({ device: "r1", subject: "far", severity: "error" });
    const outcome = applyEdit(plan, finding.fixes[0].edit);
    if (!outcome.ok) throw new Error("does not apply");
    expect(found(outcome.plan, "watch-needs-itself")).toEqual([]);
  });

  it("a route that cannot be used has a finding, once", () => {
    const plan = twoRouters(
      [
        { to: "10.2.0.0/24", via: "192.0.2.2" },
        { to: "10.7.0.0/24", via: "192.0.2.9", out: "c" },
        { to: "10.8.0.0/24", via: "203.0.113.1" },
      ],
      back,
      {
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "a", addresses: ["192.0.2.1/30"] },
          { name: "b", addresses: ["192.0.2.5/30"] },
          { name: "c", addresses: ["192.0.2.10/30"] },
        ],
      },
    );
    expect(found(plan, "route-unusable").map((f) => f.subject)).toEqual(["10.7.0.0/24 via 192.0.2.9 out c"]);
    expect(found(plan, "next-hop-unresolved").map((f) => f.subject)).toEqual(["10.8.0.0/24 via 203.0.113.1"]);
  });

  it("offers no route to link-local addresses as a fix, anywhere among the shipped cases", () => {
    const plan = linkLocalPlan([{ id: "f", from: "h", to: "2001:db8:2::2" }]);
    const labels = findAll(NetworkModel.compile(plan)).flatMap((f) => f.fixes.map((fix) => fix.label));
    expect(labels.filter((label) => label.includes("fe80::/"))).toEqual([]);
  });

  it("tells a finding that got worse", () => {
    const finding = { code: "x", device: null, subject: "s", text: "a", evidence: [], fixes: [] };
    const [was, now] = [
      { ...finding, severity: "advice" as const },
      { ...finding, severity: "error" as const },
    ];
    expect(findingChanges([was], [now]).worse).toEqual([now]);
    expect(findingChanges([was], [{ ...was, text: "b" }]).changed).toHaveLength(1);
    expect(findingChanges([was], [was])).toEqual({ appear: [], go: [], worse: [], changed: [] });
  });

  it("under conditions the gateways are those of the healthy network, and expectations hold", () => {
    const text = readFileSync(new URL("../../demo/three-routers.yaml", import.meta.url), "utf8");
    const reading = readPlanText(text);
    if (!reading.ok) throw new Error("unreadable");
    const engine = engineOf({ ...reading.plan, gateways: [] });
    const elements = reading.plan.links.map(
      (link) => findElement(engine.network, `link:${link.id}`) as number,
    );
    for (const element of elements) {
      expect(engineUnder(engine, [element]).gateways).toEqual(engine.gateways);
    }
  });
});
