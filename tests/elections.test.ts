import { describe, expect, it } from "vitest";
import type { Outage } from "../core/plan/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { Outcomes, simulate } from "../core/timeline/index.ts";
import { Election } from "../lab/agent/virtual/election.ts";
import { FakeClock } from "./support/fake-clock.ts";
import { planOf } from "./support/plans.ts";
import { Random } from "./support/random.ts";
import { Segment } from "./support/segment.ts";

/** Two or three routers, with a virtual router on each of one or two segments, in the last case in one sync group. */
interface Setting {
  readonly segments: number;
  readonly routers: readonly {
    readonly priority: number;
    readonly preempt: boolean;
    readonly preemptDelayMs: number;
    readonly lower: number;
  }[];
  readonly advertMs: readonly number[];
}

function settingOf(random: Random): Setting {
  const priorities = random.shuffled([200, 170, 140, 110, 80]);
  return {
    segments: random.chance(0.5) ? 1 : 2,
    routers: Array.from({ length: random.chance(0.6) ? 2 : 3 }, (_, n) => ({
      priority: priorities[n],
      preempt: random.chance(0.8),
      preemptDelayMs: random.chance(0.5) ? 0 : random.pick([1000, 4000, 9000, 30_000]),
      lower: random.pick([20, 70, 150]),
    })),
    advertMs: [random.pick([200, 1000, 2000]), random.pick([200, 1000, 2000])],
  };
}

const NAMES = ["lan", "wan"];

function planFor({ segments, routers, advertMs }: Setting) {
  return planOf({
    devices: routers.map(({ priority, preempt, preemptDelayMs, lower }, n) => ({
      id: `r${n}`,
      role: "router",
      profile: "metric-router",
      interfaces: [
        ...NAMES.slice(0, segments).map((name, s) => ({
          name,
          addresses: [`10.0.${s}.${n + 2}/24`],
          virtual: [
            {
              ...{ id: s + 1, addresses: [`10.0.${s}.1`], priority, preempt, preemptDelayMs },
              advertMs: advertMs[s],
              track: [{ interface: "up", lower }],
              ...(segments > 1 ? { sync: "both" } : {}),
            },
          ],
        })),
        { name: "up", addresses: [`10.9.${n}.1/30`] },
      ],
    })),
    links: [
      ...NAMES.slice(0, segments).map((id) => ({
        id,
        medium: "switch",
        ends: routers.map((_, n) => `r${n}/${id}`),
      })),
      ...routers.map((_, n) => ({ id: `up${n}`, medium: "circuit", ends: [`r${n}/up`] })),
    ],
  });
}

/** The same as state machines, each router's phase its own, that run until all have come to rest. */
class Model {
  readonly clock = new FakeClock();
  private readonly sides: Segment[];
  private readonly elections: Election[][];

  constructor(
    private readonly setting: Setting,
    random: Random,
  ) {
    this.sides = Array.from({ length: setting.segments }, () => new Segment(this.clock));
    this.elections = setting.routers.map(({ lower: _, priority, ...more }) => {
      const own = this.sides.map((side, s) => {
        const settings = { ...more, advertMs: setting.advertMs[s], addresses: [`10.0.${s}.1`] };
        return side.add(priority, settings, false);
      });
      Election.join(own);
      return own;
    });
    // Whoever does not preempt comes later than the strongest, as all start together in the plan.
    const order = setting.routers
      .map((router, n) => ({ ...router, n }))
      .sort((a, b) => b.priority - a.priority);
    for (const { n } of order) {
      for (const one of this.elections[n]) one.start();
      this.clock.run(40_000);
    }
    this.clock.run(random.below(40_000));
  }

  /** An element fails or returns. */
  strike(ref: string, how: "fail" | "shut" | "restore") {
    const [, n, port] = /r(\d)(?:\/(\w+))?/.exec(ref) as unknown as [string, string, string | undefined];
    const own = this.elections[Number(n)];
    const { priority, lower } = this.setting.routers[Number(n)];
    if (port === "up") {
      for (const one of own) one.setPriority(how === "restore" ? priority : Math.max(1, priority - lower));
      return;
    }
    const which = port === undefined ? own : [own[NAMES.indexOf(port)]];
    // What dies as a whole says nothing anywhere.
    if (port === undefined)
      for (const side of this.sides) {
        if (how === "fail") side.apart.add(Number(n));
        else side.apart.delete(Number(n));
      }
    for (const one of which) {
      if (how === "restore") one.start();
      else one.stop(how === "shut");
    }
  }

  /** Who is Active on each segment, and since when. */
  get active(): { who: string; sinceMs: number }[] {
    return this.sides.map(({ told, states }) => {
      const who = states.map((state, n) => (state === "active" ? n : -1)).filter((n) => n >= 0);
      const since = told.findLast((one) => one.active && one.who === who[0])?.atMs ?? -1;
      return { who: who.map((n) => `r${n}`).join(), sinceMs: since };
    });
  }
}

/** Who is Active on each segment in the end, and since when, in a run of the engine. */
function inRun(model: NetworkModel, segments: number, steps: Outage["steps"], phase: "min" | "max") {
  const asked = new Outcomes(model.gateways, [], model.world);
  const { events, end } = simulate(model.engine, asked, model.stepsOf(steps), phase);
  const { network, roles } = end.state;
  return NAMES.slice(0, segments).map((name) => {
    const active = network.virtuals.filter(
      (v) => roles.virtualActive[v.index] && network.interfaces.names[v.interface] === name,
    );
    const who = active.map((v) => network.devices[network.interfaces.device[v.interface]].id).join();
    const since = events.findLast(
      ({ what }) => what.kind === "virtual" && what.active && what.virtual === active[0]?.index,
    );
    return { who, sinceMs: since?.atMs ?? -1 };
  });
}

const LONG_MS = 120_000;

function stepsFor({ segments, routers }: Setting, random: Random): Outage["steps"] {
  const strongest = routers.reduce(
    (best, { priority }, n) => (priority > routers[best].priority ? n : best),
    0,
  );
  // All die, and return one after the other.
  if (random.chance(0.25)) {
    const refs = random.shuffled(routers.map((_, k) => `device:r${k}`));
    const returns = refs.map((ref) => ({ atMs: LONG_MS + random.below(7000), restore: [ref] }));
    return [{ atMs: 0, fail: refs }, ...returns.sort((a, b) => a.atMs - b.atMs)];
  }
  const n = random.chance(0.8) ? strongest : random.below(routers.length);
  const ref = random.pick([
    `device:r${n}`,
    `interface:r${n}/up`,
    `interface:r${n}/lan`,
    `interface:r${n}/${NAMES[segments - 1]}`,
  ]);
  const fails: Outage["steps"] = [{ atMs: 0, [random.chance(0.3) ? "shut" : "fail"]: [ref] }];
  return random.chance(0.5) ? fails : [...fails, { atMs: LONG_MS, restore: [ref] }];
}

// Rules 14.2 to 14.4 and 14.7, by RFC 9568's state machine, 6.4, as the lab runs it.
describe("who becomes Active and when is as step by step", () => {
  const { ELECTIONS_FIRST, ELECTIONS_COUNT } = process.env;
  const count = Number(ELECTIONS_COUNT ?? 150);
  it(`on ${count} random settings, with delays for preemption and sync groups`, () => {
    for (let seed = Number(ELECTIONS_FIRST ?? 1); seed < Number(ELECTIONS_FIRST ?? 1) + count; seed++) {
      const random = new Random(seed * 7919);
      const setting = settingOf(random);
      const steps = stepsFor(setting, random);
      const model = NetworkModel.compile(planFor(setting));
      const runs = [
        inRun(model, setting.segments, steps, "min"),
        inRun(model, setting.segments, steps, "max"),
      ];
      for (let phase = 0; phase < 4; phase++) {
        const machine = new Model(setting, random);
        const startMs = machine.clock.now();
        for (const step of steps) {
          machine.clock.run(startMs + step.atMs - machine.clock.now());
          for (const how of ["fail", "shut", "restore"] as const)
            for (const ref of step[how] ?? []) machine.strike(ref, how);
        }
        machine.clock.run(LONG_MS);
        const seen = machine.active;
        for (const [s, { who, sinceMs }] of seen.entries()) {
          const told = { seed, steps, setting, segment: NAMES[s] };
          const [least, most] = runs.map((run) => run[s]);
          expect({ ...told, who: [least.who, most.who] }).toEqual({ ...told, who: [who, who] });
          const atMs = sinceMs < startMs ? -1 : sinceMs - startMs;
          const within = atMs >= Math.floor(least.sinceMs) && atMs <= Math.ceil(most.sinceMs);
          expect({ ...told, atMs, within, bounds: [least.sinceMs, most.sinceMs] }).toMatchObject({
            within: true,
          });
        }
      }
    }
  });
});
