import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { engineOf, planOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { findElement } from "../network/index.ts";
import { askFrom } from "../walk/index.ts";
import { Outcomes, timelineOf } from "./index.ts";

interface Timing {
  intervalMs: number;
  timeoutMs: number;
  failAfter: number;
  recoverAfter: number;
}

/** desk – r1 = (a circuit | a cable) = r2 – server; r1's primary over the circuit is withdrawn by a watch, r2 answers over the cable. */
function planWith(probes: readonly Timing[], need: "any" | "all") {
  const host = (id: string, net: string) => ({
    id,
    role: "host",
    interfaces: [{ name: "e", addresses: [`${net}.10/24`] }],
    routes: [{ to: "0.0.0.0/0", via: `${net}.1` }],
  });
  const router = (id: string, net: string, n: number, more: object) => ({
    id,
    role: "router",
    interfaces: [
      { name: "lan", addresses: [`${net}.1/24`] },
      { name: "a", addresses: [`192.0.2.${n}/30`] },
      { name: "b", addresses: [`192.0.2.${n + 4}/30`] },
    ],
    ...more,
  });
  const ids = probes.map((_, n) => `p${n}`);
  return planOf({
    devices: [
      host("desk", "10.1.0"),
      router("r1", "10.1.0", 1, {
        routes: [
          { to: "10.2.0.0/24", via: "192.0.2.2", watch: "w" },
          { to: "10.2.0.0/24", via: "192.0.2.6", distance: 20 },
        ],
        watches: [
          ...probes.map((timing, n) => ({
            id: ids[n],
            kind: "probe",
            target: "192.0.2.2",
            out: "a",
            via: "192.0.2.2",
            ...timing,
          })),
          { id: "w", kind: "group", need, of: ids },
        ],
      }),
      router("r2", "10.2.0", 2, { routes: [{ to: "10.1.0.0/24", via: "192.0.2.5" }] }),
      host("server", "10.2.0"),
    ],
    links: [
      { id: "la", medium: "switch", ends: ["desk/e", "r1/lan"] },
      { id: "a", medium: "circuit", ends: ["r1/a", "r2/a"] },
      { id: "b", ends: ["r1/b", "r2/b"] },
      { id: "lb", medium: "switch", ends: ["server/e", "r2/lan"] },
    ],
    flows: [{ id: "f", from: "desk", to: "server" }],
  });
}

/** What the engine gives: the circuit fails at the first of these moments, returns at the second, and so on. */
function boundsOf(probes: readonly Timing[], need: "any" | "all", turns: readonly number[]) {
  const engine = engineOf(planWith(probes, need));
  const asked = askFrom(engine.network, engine.network.plan.flows[0]);
  if (!asked.ok) throw new Error(asked.message);
  const link = findElement(engine.network, "link:a") as number;
  const steps = turns.map((atMs, n) => ({
    atMs,
    fail: n % 2 ? [] : [link],
    restore: n % 2 ? [link] : [],
  }));
  const flows = new Outcomes([], [asked.question], engine.healthy.world);
  return timelineOf(engine, flows, [1], steps, true).flows[0].outageMs;
}

/** When a probe that sends at `phaseMs` and every interval from there turns, by counting one result after the other. */
function turnsOf(timing: Timing, turns: readonly number[], phaseMs: number): { atMs: number; up: boolean }[] {
  const { intervalMs, timeoutMs, failAfter, recoverAfter } = timing;
  const lives = (ms: number) => turns.filter((t) => t <= ms).length % 2 === 0;
  const horizon = (turns.at(-1) ?? 0) + (failAfter + recoverAfter + 3) * intervalMs + timeoutMs;
  const results: { atMs: number; sent: number; answered: boolean }[] = [];
  for (let sent = phaseMs - 4 * intervalMs; sent < horizon; sent += intervalMs)
    results.push({ atMs: lives(sent) ? sent : sent + timeoutMs, sent, answered: lives(sent) });
  results.sort((a, b) => a.atMs - b.atMs);
  const found: { atMs: number; up: boolean }[] = [];
  let [up, row, answeredLast] = [true, 0, Number.NEGATIVE_INFINITY];
  for (const { atMs, sent, answered } of results) {
    if (!answered && sent < answeredLast) continue;
    if (answered) answeredLast = sent;
    row = answered === up ? 0 : row + 1;
    if (row < (up ? failAfter : recoverAfter)) continue;
    [up, row] = [!up, 0];
    found.push({ atMs, up });
  }
  return found;
}

/** The time for which the circuit is dead while the group still holds the route over it, with these phases. */
function silenceOf(
  probes: readonly Timing[],
  need: "any" | "all",
  turns: readonly number[],
  phases: readonly number[],
): number {
  const changes = [
    ...turns.map((atMs) => ({ atMs, link: true, probe: -1, up: false })),
    ...probes.flatMap((timing, probe) =>
      turnsOf(timing, turns, phases[probe]).map(({ atMs, up }) => ({ atMs, link: false, probe, up })),
    ),
  ].sort((a, b) => a.atMs - b.atMs);
  const ups = probes.map(() => true);
  let [alive, last, sum] = [true, 0, 0];
  for (const { atMs, link, probe, up } of changes) {
    const holds = need === "any" ? ups.includes(true) : !ups.includes(false);
    if (!alive && holds) sum += atMs - last;
    last = atMs;
    if (link) alive = !alive;
    else ups[probe] = up;
  }
  return sum;
}

/** Every phase up to where the order of events changes: all times are multiples of ten. */
function phasesOf({ intervalMs }: Timing): number[] {
  return Array.from({ length: intervalMs / 10 }, (_, n) => [n * 10 - 0.01, n * 10 + 0.01]).flat();
}

function enumerated(probes: readonly Timing[], need: "any" | "all", turns: readonly number[]) {
  const all = probes.reduce<number[][]>(
    (lists, timing) => lists.flatMap((list) => phasesOf(timing).map((phase) => [...list, phase])),
    [[]],
  );
  const sums = all.map((phases) => silenceOf(probes, need, turns, phases));
  return { min: Math.min(...sums), max: Math.max(...sums) };
}

const between = (random: Random, least: number, most: number) => least + random.below(most - least + 1);

function timingFrom(random: Random): Timing {
  return {
    intervalMs: between(random, 2, 12) * 10,
    timeoutMs: between(random, 1, 20) * 10,
    failAfter: between(random, 1, 3),
    recoverAfter: between(random, 1, 3),
  };
}

function expectAlike(
  found: { min: number | null; max: number | null },
  wanted: { min: number; max: number },
) {
  expect(Math.abs((found.min ?? Number.NaN) - wanted.min)).toBeLessThan(1);
  expect(Math.abs((found.max ?? Number.NaN) - wanted.max)).toBeLessThan(1);
}

describe("rule 9.3: probes on a fixed schedule, against every phase", () => {
  it("one probe, through failures that come and go", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const timing = timingFrom(random);
        const turns = [0];
        for (let n = between(random, 0, 5); n > 0; n--)
          turns.push((turns.at(-1) ?? 0) + between(random, 1, 25) * 10);
        expectAlike(boundsOf([timing], "any", turns), enumerated([timing], "any", turns));
      }),
      { numRuns: 150 },
    );
  });

  it("two probes in a group", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const probes = [timingFrom(random), timingFrom(random)];
        const need = random.chance(0.5) ? "any" : "all";
        const turns = random.chance(0.5) ? [0] : [0, between(random, 1, 40) * 10];
        expectAlike(boundsOf(probes, need, turns), enumerated(probes, need, turns));
      }),
      { numRuns: 40 },
    );
  });

  it("a failure shorter than the interval withdraws the route after it is over, if a probe met it", () => {
    const timing = { intervalMs: 10_000, timeoutMs: 1000, failAfter: 1, recoverAfter: 1 };
    // Down for 500 ms: a probe that was sent meanwhile is given up after the link is back, and harms nothing here.
    expect(boundsOf([timing], "any", [0, 500])).toEqual({ min: 500, max: 500 });
    // A second failure while the route is withdrawn is no outage; without a probe in the first it is one in full.
    expect(boundsOf([timing], "any", [0, 500, 2000, 3000])).toEqual({ min: 500, max: 1500 });
  });

  it("a route that its own probe withdraws and brings back flaps for ever, and that is found", () => {
    const timing = { intervalMs: 1000, timeoutMs: 500, failAfter: 1, recoverAfter: 1 };
    const plan = planWith([timing], "any");
    const r1 = plan.devices[1];
    // It asks for what only the backup reaches, and is up while the primary is not used.
    const devices = plan.devices.map((device) =>
      device === r1
        ? {
            ...device,
            watches: [
              { id: "p0", kind: "probe", target: "10.2.0.10", source: "lan", ...timing },
              { id: "w", kind: "group", need: "any", of: ["p0"] },
            ],
          }
        : device,
    );
    const engine = engineOf(planOf({ ...plan, devices } as never));
    const asked = askFrom(engine.network, plan.flows[0]);
    if (!asked.ok) throw new Error(asked.message);
    const link = findElement(engine.network, "link:a") as number;
    const flows = new Outcomes([], [asked.question], engine.healthy.world);
    const line = timelineOf(engine, flows, [1], [{ atMs: 0, fail: [link], restore: [] }], true);
    expect(line.longest.flapping).toBe(true);
    expect(line.flows[0].outageMs.max).toBe(null);
  });

  it("a timeout that comes after a later answer counts nothing", () => {
    const timing = { intervalMs: 100, timeoutMs: 1000, failAfter: 1, recoverAfter: 1 };
    expect(boundsOf([timing], "any", [0, 850])).toEqual({ min: 850, max: 850 });
  });
});
