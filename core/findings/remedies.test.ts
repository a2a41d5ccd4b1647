import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { elementCount, formatElement } from "../network/index.ts";
import { applyEdit, type Edit, type Plan } from "../plan/index.ts";
import { repairOf } from "../remedies/index.ts";
import { NetworkModel, type Scenario } from "../scenario/index.ts";
import { settle, worldsOf } from "../settle/index.ts";
import { askFrom, walkBothWays, walkPacket } from "../walk/index.ts";
import { findAll } from "./index.ts";

/** Routers in a ring, each with one or two networks, some of them shared by two routers. They reach the others by
 * specific routes, summaries or a default route, with mistakes among them. */
function ringPlan(seed: number): Plan {
  const random = new Random(seed * 17);
  const count = 3 + random.below(3);
  const all = Array.from({ length: count }, (_, n) => n);
  const next = (n: number) => (n + 1) % count;
  const before = (n: number) => (n + count - 1) % count;
  /** The address of a router on the ring's link from n to the next one. */
  const ring = (n: number, side: 1 | 2) => `10.255.${n}.${side}`;
  const shared = random.chance(0.5);
  const devices = all.flatMap((n) => {
    const toNext = ring(n, 2);
    const toBefore = ring(before(n), 1);
    const either = () => (random.chance(0.5) ? toNext : toBefore);
    const specific = all
      .filter((other) => other !== n && random.chance(0.7))
      .flatMap((other) => {
        const to = `10.0.${other * 4}.0/24`;
        const [first, second] = random.chance(0.5) ? [toNext, toBefore] : [toBefore, toNext];
        return [{ to, via: first }, ...(random.chance(0.4) ? [{ to, via: second, distance: 20 }] : [])];
      });
    const wide = [
      ...(random.chance(0.5) ? [{ to: "10.0.0.0/19", via: either() }] : []),
      ...(random.chance(0.5) ? [{ to: "0.0.0.0/0", via: either() }] : []),
      ...(random.chance(0.3) ? [{ to: `10.0.${n * 4}.0/22`, via: either() }] : []),
    ];
    return [
      {
        id: `r${n}`,
        role: "router",
        interfaces: [
          { name: "next", addresses: [`${ring(n, 1)}/30`] },
          { name: "before", addresses: [`${ring(before(n), 2)}/30`] },
          { name: "lan", addresses: [`10.0.${n * 4}.1/24`] },
          ...(shared && n < 2 ? [{ name: "both", addresses: [`10.0.100.${n + 1}/24`] }] : []),
        ],
        routes: [...specific, ...wide],
      },
      {
        id: `h${n}`,
        role: "host",
        interfaces: [{ name: "e", addresses: [`10.0.${n * 4}.10/24`] }],
        routes: [{ to: "0.0.0.0/0", via: `10.0.${n * 4}.1` }],
      },
    ];
  });
  return planOf({
    devices: [
      ...devices,
      ...(shared
        ? [
            {
              id: "server",
              role: "host",
              interfaces: [{ name: "e", addresses: ["10.0.100.9/24"] }],
              routes: [{ to: "0.0.0.0/0", via: `10.0.100.${1 + random.below(2)}` }],
            },
          ]
        : []),
    ],
    links: [
      ...all.map((n) => ({
        id: `ring${n}`,
        medium: random.pick(["cable", "circuit"]),
        ends: [`r${n}/next`, `r${next(n)}/before`],
      })),
      ...all.map((n) => ({ id: `lan${n}`, ends: [`r${n}/lan`, `h${n}/e`] })),
      ...(shared ? [{ id: "both", medium: "switch", ends: ["r0/both", "r1/both", "server/e"] }] : []),
    ],
    flows: random.chance(0.5) ? [{ id: "f", from: "h0", to: `10.0.${(count - 1) * 4}.10` }] : [],
  });
}

/** What works and what arrives between all devices and hosts, with nothing failed and under every single failure. */
function faring({ engine, network }: Scenario): Map<string, boolean> {
  const found = new Map<string, boolean>();
  const hosts = network.plan.devices.filter(({ role }) => role === "host");
  for (let e = -1; e < elementCount(network); e++) {
    const worlds = worldsOf(settle(engine, e < 0 ? [] : [e]));
    const failed = e < 0 ? "" : formatElement(network, e);
    for (const { id } of network.plan.devices)
      for (const host of hosts) {
        const asked = askFrom(network, { from: id, to: host.interfaces[0].addresses[0].split("/")[0] });
        if (!asked.ok) continue;
        const works = worlds.every((world) => walkBothWays(world, asked.question).verdict === "works");
        found.set(`${id} to ${host.id} under ${failed || "nothing"}`, works);
        if (e >= 0) continue;
        const arrives = worlds.every((world) =>
          walkPacket(world, asked.question).every(({ result }) => result === "delivered"),
        );
        found.set(`${id} reaches ${host.id}`, arrives);
      }
  }
  return found;
}

/** All offers for a plan: fixes of findings, and routes that repair broken flows. */
function offers(model: NetworkModel): Edit[] {
  const hosts = model.plan.devices.filter(({ role }) => role === "host");
  const mended = hosts.flatMap(({ id }) =>
    hosts.flatMap((other) => {
      const asked = askFrom(model.network, { from: id, to: other.id });
      if (!asked.ok || walkBothWays(model.world, asked.question).verdict === "works") return [];
      return repairOf(model, asked.question) ?? [];
    }),
  );
  return [...findAll(model).flatMap(({ fixes }) => fixes.map(({ edit }) => edit)), ...mended];
}

describe("rule 12.1: what is offered harms nothing", () => {
  const { REMEDIES_FIRST, REMEDIES_COUNT } = process.env;
  const seeds = Array.from(
    { length: Number(REMEDIES_COUNT ?? 8) },
    (_, i) => Number(REMEDIES_FIRST ?? 1) + i,
  );
  it.each([
    ...seeds.map((seed) => [`ring ${seed}`, () => ringPlan(seed)] as const),
    ...seeds.map((seed) => [`random plan ${seed}`, () => randomPlan(seed, { mistakes: true })] as const),
  ])("of %s, with nothing failed and under every single failure", (_, make) => {
    const model = NetworkModel.compile(make());
    const was = faring(model);
    for (const edit of offers(model)) {
      const outcome = applyEdit(model.plan, edit);
      if (!outcome.ok) throw new Error(outcome.errors[0].message);
      const now = faring(NetworkModel.compile(outcome.plan));
      const lost = [...was].filter(([what, fine]) => fine && now.get(what) === false);
      expect({ offered: edit.label, lost }).toEqual({ offered: edit.label, lost: [] });
    }
  });
});
