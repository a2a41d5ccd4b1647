import type { Plan } from "../../core/plan/index.ts";
import { Random } from "../support/random.ts";
import { keeping, shared, together, translated, tunnelled, twoWays } from "./networks.ts";

/** A plan and what happens to it; small times, so that many can be rehearsed. */
export interface RehearsalCase {
  readonly name: string;
  readonly plan: Plan;
  readonly steps: Plan["outages"][number]["steps"];
}

/** The cases of a seed: the shapes are settled, times and priorities are drawn. */
export function rehearsalCases(seed: number): RehearsalCase[] {
  const random = new Random(seed);
  const between = (least: number, most: number) => least + random.below(most - least + 1);
  const interval = () => between(10, 30) * 10;
  const bfd = (peer: string, multiplier = between(2, 4)) => ({
    ...{ id: "peer", kind: "bfd", interface: "a", peer, multiplier },
    minTxMs: interval(),
    minRxMs: interval(),
  });
  const probe = () => ({
    intervalMs: between(30, 60) * 10,
    timeoutMs: between(10, 25) * 10,
    failAfter: between(1, 3),
    recoverAfter: between(1, 3),
  });
  const down = (ref: string, backAfterMs: number | null = between(35, 50) * 100) => [
    { atMs: 0, fail: [ref] },
    ...(backAfterMs === null ? [] : [{ atMs: backAfterMs, restore: [ref] }]),
  ];
  const six = random.chance(0.5);
  const priorities = (): [number, number] => [between(110, 200), between(50, 105)];
  const adverts = () => between(10, 60) * 10;
  const duct = [{ id: "duct", of: ["link:first"] }];
  const dead = { min: 500, max: between(8, 14) * 100 };
  const cases: [string, Plan, RehearsalCase["steps"]][] = [
    ["a cable, and nothing but carrier", twoWays({ medium: "cable" }), down("link:first")],
    [
      "a cable without carrier delay, over IPv6",
      twoWays({ medium: "cable", six: true, profile: "metric-router" }),
      down("link:first"),
    ],
    [
      "a tunnel with keepalives, whose provider dies",
      tunnelled(six, interval(), between(2, 4)),
      down("device:provider"),
    ],
    ["a tunnel without keepalives: packets vanish", tunnelled(six, 0), down("link:access-1", 2500)],
    ["a tunnel's own interface", tunnelled(!six, interval()), down("interface:left/tun", 2500)],
    ["a VRF's only line: what is in main goes on", tunnelled(six, interval()), down("link:spare", 1500)],
    ["a device with a VRF", tunnelled(!six, interval()), down("device:right", 2500)],
    ["a circuit that nobody watches", twoWays({ medium: "circuit", six }), down("link:first", 2500)],
    [
      "a circuit with sessions",
      twoWays({ medium: "circuit", watches: ({ peer }) => [bfd(peer)] }),
      down("link:first"),
    ],
    [
      "a circuit with sessions, over IPv6",
      twoWays({ medium: "circuit", six: true, watches: ({ peer }) => [bfd(peer)] }),
      down("link:first"),
    ],
    [
      "a session on a cable: carrier is first",
      twoWays({ medium: "cable", watches: ({ peer }) => [bfd(peer, 4)] }),
      down("link:first"),
    ],
    [
      "a session whose device dies",
      twoWays({ medium: "circuit", watches: ({ peer }) => [bfd(peer)] }),
      down("interface:right/a"),
    ],
    [
      "a circuit with probes that are pinned",
      twoWays({
        ...{ medium: "circuit", six },
        watches: ({ peer, far }) => [
          { id: "far", kind: "probe", target: far, out: "a", via: peer, ...probe() },
        ],
      }),
      down("link:first"),
    ],
    [
      "a probe of the neighbour",
      twoWays({
        medium: "switch",
        watches: ({ peer }) => [{ id: "near", kind: "probe", target: peer, out: "a", ...probe() }],
      }),
      down("interface:right/a"),
    ],
    [
      "a group of any, with delays",
      twoWays({
        medium: "circuit",
        watches: ({ peer, far }) => [
          bfd(peer, 2),
          { id: "far", kind: "probe", target: far, out: "a", via: peer, ...probe() },
          { id: "both", kind: "group", need: "any", of: ["peer", "far"], downDelayMs: 200, upDelayMs: 400 },
        ],
      }),
      down("link:first"),
    ],
    [
      "a group of all",
      twoWays({
        medium: "circuit",
        watches: ({ peer, far }) => [
          bfd(peer, 3),
          { id: "far", kind: "probe", target: far, out: "a", via: peer, ...probe() },
          { id: "both", kind: "group", need: "all", of: ["peer", "far"] },
        ],
      }),
      down("link:first"),
    ],
    [
      "a watch of an interface",
      twoWays({ medium: "switch", watches: () => [{ id: "port", kind: "interface", interface: "a" }] }),
      down("interface:left/a"),
    ],
    [
      "a watch that fails by itself",
      twoWays({ medium: "circuit", watches: ({ peer }) => [bfd(peer)] }),
      down("watch:left/peer", 2500),
    ],
    [
      "two lines in one duct",
      twoWays({ medium: "cable", link: { over: ["duct"] } }),
      down("link:duct", 2500),
    ],
    ["a risk", twoWays({ medium: "cable", risks: duct }), down("risk:duct")],
    ["a tag beside it", twoWays({ medium: "cable", tagged: true }), down("link:first")],
    [
      "a tag whose line is cut while it carries",
      twoWays({ medium: "cable", tagged: true }),
      [
        { atMs: 0, fail: ["link:first"] },
        { atMs: 1500, fail: ["link:trunk"] },
        { atMs: 3000, restore: ["link:trunk"] },
      ],
    ],
    [
      "a virtual router that dies",
      shared({ advertMs: adverts(), priorities: priorities() }),
      down("device:left", null),
    ],
    [
      "a virtual router that dies, boots and comes back",
      shared({ advertMs: adverts(), priorities: priorities(), bootMs: 600 }),
      down("device:left"),
    ],
    [
      "other gateway come back",
      shared({ advertMs: adverts(), priorities: priorities(), preempt: false }),
      down("interface:left/lan"),
    ],
    [
      "one that comes back late",
      shared({ advertMs: 200, priorities: priorities(), preemptDelayMs: between(10, 20) * 100 }),
      down("interface:left/lan", 2000),
    ],
    [
      "a virtual router that tracks its uplink",
      shared({ advertMs: adverts(), priorities: [150, 100], lower: 80 }),
      down("interface:left/up"),
    ],
    [
      "a virtual router that tracks a probe",
      shared({ advertMs: 200, priorities: [150, 100], lower: 80, uplink: "circuit", probe: probe() }),
      down("link:line-a"),
    ],
    [
      "a virtual router that says that it goes",
      shared({ advertMs: adverts(), priorities: priorities() }),
      [{ atMs: 0, shut: ["device:left"] }],
    ],
    [
      "a weaker one that waits before it preempts",
      shared({ advertMs: 200, priorities: [150, 100], lower: 80, preemptDelayMs: between(8, 12) * 100 }),
      down("interface:left/up"),
    ],
    [
      "a sync group of which one side dies",
      together([adverts(), adverts()], priorities()),
      down("interface:left/core"),
    ],
    [
      "a sync group that dies as a whole",
      together([200, adverts()], priorities()),
      down("device:left", null),
    ],
    [
      "a circuit with sessions that fails in one direction",
      twoWays({ medium: "circuit", watches: ({ peer }) => [bfd(peer)] }),
      down("link:first@right"),
    ],
    [
      "a host that keeps the gateway that it moved to",
      keeping("sticky-host", dead),
      [
        { atMs: 0, fail: ["device:left"] },
        { atMs: 2500, restore: ["device:left"] },
        { atMs: 4000, fail: ["device:right"] },
      ],
    ],
    [
      "a host that keeps its gateway, whose own port loses carrier",
      keeping("sticky-host", dead),
      [
        { atMs: 0, fail: ["device:left"] },
        { atMs: 2500, restore: ["device:left"] },
        { atMs: 4000, fail: ["link:lan-2"] },
      ],
    ],
    [
      "a host whose preferred gateway is back",
      keeping("host", dead),
      [
        { atMs: 0, fail: ["device:left"] },
        { atMs: 2500, restore: ["device:left"] },
        { atMs: 4000, fail: ["device:right"] },
      ],
    ],
    ["a firewall whose provider's line is cut", translated(probe(), "cable"), down("link:north")],
    ["a firewall whose provider goes silent", translated(probe(), "circuit"), down("link:north-up")],
  ];
  return cases.map(([name, plan, steps]) => ({ name, plan, steps }));
}
