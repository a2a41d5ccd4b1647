import { describe, expect, it } from "vitest";
import { endOf, planOf, tripOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { twoGateways } from "../../tests/support/shared-plans.ts";
import { findAll } from "../findings/index.ts";
import type { Plan } from "../plan/index.ts";
import { pathReport, sweepReport, watchesOf } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { explainTrip } from "../words/index.ts";
import { askFrom, breakingOf, walkBothWays } from "./index.ts";

type Loose = Record<string, unknown>;
const assume = { unlinked: "up", hosts: "answer" };

/** A router with a LAN that nothing is drawn on, behind another one. */
const bare = (more: Loose = {}, lan: Loose = {}) =>
  NetworkModel.compile(
    planOf({
      assume,
      devices: [
        {
          id: "hq",
          role: "router",
          interfaces: [{ name: "wan", addresses: ["10.0.0.1/30"] }],
          routes: [{ to: "10.18.9.0/24", via: "10.0.0.2" }],
        },
        {
          id: "site",
          role: "router",
          interfaces: [
            { name: "wan", addresses: ["10.0.0.2/30"] },
            { name: "lan", addresses: ["10.18.9.1/24"], ...lan },
          ],
        },
      ],
      links: [{ id: "wan", ends: ["hq/wan", "site/wan"] }],
      ...more,
    }),
  );

const pathTo = ({ world, gateways }: NetworkModel, to: string, from = "hq") => {
  const trip = tripOf(world, from, to);
  return { ...pathReport(world, gateways, trip), code: endOf(trip)?.code, trip };
};

describe("rule 2.8: what is taken for given where nothing is drawn", () => {
  it("is nothing, unless the plan says so", () => {
    const model = bare({ assume: undefined });
    expect(pathTo(model, "10.18.9.20")).toMatchObject({ verdict: "fails", code: "no-route" });
    const up = bare({ assume: { unlinked: "up" } });
    expect(pathTo(up, "10.18.9.20")).toMatchObject({ verdict: "fails", code: "host-not-listening" });
  });

  it("lets a host answer, and says so", () => {
    const model = bare();
    const path = pathTo(model, "10.18.9.20");
    expect(path).toMatchObject({ verdict: "works", assumed: ["10.18.9.20"], symmetric: true });
    expect(path.outbound.hops.map(({ device, to }) => [device, to])).toEqual([
      ["hq", "site"],
      ["site", null],
    ]);
    expect(path.seen.hops).toEqual(["10.0.0.2", "10.18.9.20"]);
    const { world, gateways } = model;
    expect(explainTrip(gateways, path as never, { world, trip: path.trip }).sentences).toContain(
      "Assuming a host at 10.18.9.20.",
    );
  });

  it("keeps what is established with it", () => {
    const { world } = bare();
    const asked = askFrom(world.state.network, { from: "hq", to: "10.18.9.20", protocol: "tcp", port: 443 });
    if (!asked.ok) throw new Error(asked.message);
    const before = walkBothWays(world, asked.question);
    expect(breakingOf(before, asked.question, world)).toBeNull();
  });

  it.each([
    ["10.18.9.0", "the network"],
    ["10.18.9.255", "the broadcast"],
    ["10.18.9.7", "a next hop of some route"],
    ["10.18.9.130", "what a longer prefix elsewhere has"],
  ])("but not at %s, %s", (to) => {
    const devices = [
      {
        id: "spare",
        role: "router",
        interfaces: [{ name: "lo", kind: "loopback", addresses: ["10.18.9.129/25"] }],
        routes: [{ to: "192.0.2.0/24", via: "10.18.9.7" }],
      },
    ];
    const plan = bare().plan;
    const model = NetworkModel.compile({
      ...plan,
      devices: [...plan.devices, ...planOf({ devices }).devices],
    });
    expect(pathTo(model, to).verdict).toBe("fails");
  });

  it("and not on transfer networks, serial lines or circuits: a neighbor there is not drawn", () => {
    const model = bare({}, { addresses: ["10.18.9.1/30"] });
    expect(pathTo(model, "10.18.9.2", "site")).toMatchObject({ code: "host-not-listening" });
    expect(pathTo(bare({}, { kind: "serial" }), "10.18.9.20").verdict).toBe("fails");
    const via = bare().plan;
    const devices = via.devices.map((device) =>
      device.id === "site" ? { ...device, routes: [{ to: "0.0.0.0/0", via: "10.18.9.9" }] } : device,
    );
    const path = pathTo(NetworkModel.compile(planOf({ ...loose(via), devices })), "203.0.113.9", "site");
    expect(path).toMatchObject({ verdict: "fails", code: "neighbour-silent" });
    expect(path.outbound.drop?.text).toContain("the plan draws no link there");
  });

  it("fails with its interface and device, which are the flow's own end", () => {
    const plan = planOf({
      ...loose(bare().plan),
      flows: [{ id: "f", from: "hq", to: "10.18.9.20", expect: { survive: 1 } }],
    });
    const model = NetworkModel.compile(plan);
    const [flow] = sweepReport(model.engine, model.gateways, 1).flows;
    expect(flow.nominal.verdict).toBe("works");
    const failed = flow.failures.flatMap((one) => (one.verdict === "works" ? [] : one.failed));
    expect(failed).toContain("interface:site/lan");
    const texts = findAll(model).filter(({ code }) => code === "single-point-of-failure");
    expect(texts.every(({ text }) => !text.includes("interface:site/lan"))).toBe(true);
  });

  it("does not join interfaces of one subnet that no link joins, which is a finding with a switch as its fix", () => {
    const plan = planOf({
      assume,
      devices: ["a", "b"].map((id, n) => ({
        id,
        role: "router",
        interfaces: [{ name: "lan", addresses: [`10.18.9.${n + 1}/24`] }],
      })),
    });
    const model = NetworkModel.compile(plan);
    expect(tripOf(model.world, "a", "10.18.9.2").verdict).toBe("fails");
    const [finding] = findAll(model, { fixes: true }).filter(({ code }) => code === "segment-not-drawn");
    expect(finding.text).toContain("a/lan and b/lan have addresses of 10.18.9.0/24, but no link joins them.");
    const after = model.afterEdit(finding.fixes[0].edit);
    expect(after.ok && tripOf(after.scenario.world, "a", "10.18.9.2").verdict).toBe("works");
  });

  it("lets a probe of such a host be up, and says so", () => {
    const plan = bare().plan;
    const [hq, site] = plan.devices;
    const probe = { id: "far", kind: "probe", target: "10.18.9.20", out: "wan", via: "10.0.0.2" };
    const watching = (more: Loose) =>
      watchesOf(
        NetworkModel.compile(
          planOf({ ...loose(plan), ...more, devices: [{ ...hq, watches: [probe] }, site] }),
        ).world,
        0,
      ).map(({ up, assumed }) => [up, assumed]);
    expect(watching({})).toEqual([[true, "10.18.9.20"]]);
    expect(watching({ assume: { unlinked: "up" } })).toEqual([[false, undefined]]);
  });

  it("is not certain of verdicts and elections on a segment that is not drawn", () => {
    const virtual = [{ id: 1, addresses: ["10.18.9.254"] }];
    const router = (id: string, n: number) => ({
      id,
      role: "router",
      interfaces: [
        { name: "lan", addresses: [`10.18.9.${n}/24`], virtual },
        { name: "up", addresses: [`10.0.${n}.1/30`] },
      ],
      routes: n === 3 ? [{ to: "192.0.2.0/24", via: "10.18.9.2" }] : [],
    });
    const plan = planOf({
      assume,
      devices: [router("a", 3), router("b", 2)],
      flows: ["10.18.9.2", "10.18.9.20", "10.18.9.254", "192.0.2.1", "10.0.3.1"].map((to) => ({
        ...{ id: to.replaceAll(".", "-"), from: "a", to },
      })),
    });
    const model = NetworkModel.compile(plan);
    const found = sweepReport(model.engine, model.gateways, 1).flows.map(({ id, nominal }) => [
      id,
      nominal.verdict,
      nominal.uncertain ?? false,
    ]);
    expect(found).toEqual([
      ["10-18-9-2", "fails", true],
      ["10-18-9-20", "works", true],
      ["10-18-9-254", "works", true],
      ["192-0-2-1", "fails", true],
      ["10-0-3-1", "works", false],
    ]);
    for (const { id, to } of plan.flows)
      expect([id, pathTo(model, to, "a").uncertain ?? false]).toEqual([id, id !== "10-0-3-1"]);
  });

  it("answers by the Active virtual router of its segment", () => {
    const base = twoGateways();
    const plan = planOf({ ...loose(base), assume, flows: [] });
    const model = NetworkModel.compile(plan);
    const gatewayOf = (failed: string[]) => {
      const { world } = model.under(failed);
      const trip = tripOf(world, "srv", "172.20.16.77");
      return [trip.verdict, world.state.network.devices[trip.worst.reply?.hops[0].device ?? 0].id];
    };
    expect(gatewayOf([])).toEqual(["works", "ra"]);
    expect(gatewayOf(["device:ra"])).toEqual(["works", "rb"]);
  });

  it("answers as a drawn host does, on random plans and whatever fails", () => {
    let compared = 0;
    for (let seed = 1; seed <= 60; seed++) {
      const random = new Random(seed * 97);
      const drawn = randomPlan(seed, { family: seed % 3 ? 4 : 6 });
      // A host that nothing forwards through, on a segment of routers: once drawn, once assumed.
      const hosts = drawn.devices.filter(
        ({ id, role, interfaces, routes }) =>
          role === "host" &&
          interfaces.length === 1 &&
          routes.length === 1 &&
          drawn.flows.every(({ from }) => !from.startsWith(id)),
      );
      const host = random.pick(
        hosts.length > 0 ? hosts : drawn.devices.filter(({ role }) => role === "host"),
      );
      if (!host) continue;
      const [address] = host.interfaces[0].addresses[0].split("/");
      const link = drawn.links.find(({ ends }) => ends.includes(`${host.id}/${host.interfaces[0].name}`));
      const routers = link?.ends.filter((end) => !end.startsWith(`${host.id}/`)) ?? [];
      if (!link || routers.length !== 1 || link.medium === "circuit") continue;
      const full = NetworkModel.compile({ ...drawn, flows: [], gateways: [] });
      const without = NetworkModel.compile(
        planOf({
          ...loose(drawn),
          assume,
          flows: [],
          gateways: [],
          outages: [],
          devices: drawn.devices.filter(({ id }) => id !== host.id),
          links: drawn.links.map((one) => (one === link ? { ...one, medium: "switch", ends: routers } : one)),
        }),
      );
      const senders = drawn.devices.filter(({ id }) => id !== host.id);
      for (const failed of [[], [`link:${random.pick(drawn.links).id}`]]) {
        if (failed[0] === `link:${link.id}`) continue;
        const [one, other] = [full.under(failed), without.under(failed)];
        for (const { id } of senders) {
          const [seen, assumed] = [one, other].map(({ world }) => tripOf(world, id, address));
          compared++;
          expect({ seed, failed, id, address, verdict: assumed.verdict }).toEqual({
            ...{ seed, failed, id, address },
            verdict: seen.verdict,
          });
        }
      }
    }
    expect(compared).toBeGreaterThan(100);
  });
});

/** A plan as a document again. */
function loose(plan: Plan): Loose {
  const { ironFork: _, name: __, ...rest } = plan;
  return rest;
}
