import { describe, expect, it } from "vitest";
import { planOf } from "../tests/support/plans.ts";
import { findAll, NetworkModel } from "./index.ts";
import { interfaceName } from "./network/index.ts";
import { lookupReport, type RouteReport, tableReport, timelineReport } from "./reports/index.ts";
import type { Scenario } from "./scenario/index.ts";

// Rules that no other test cites by number. Addresses and times are computed by hand.

type Loose = Record<string, unknown>;

const host = (id: string, address: string, via: string | null, more: Loose = {}) => ({
  id,
  role: "host",
  interfaces: [{ name: "eth0", addresses: [address] }],
  routes: via === null ? [] : [{ to: address.includes(":") ? "::/0" : "0.0.0.0/0", via }],
  ...more,
});

interface Line {
  medium?: string;
  left?: Loose;
  right?: Loose;
  routes?: Loose[];
  wan?: Loose;
  flows?: Loose[];
}

/** desk – left – right – server; the link between the routers, "mid", of a chosen medium. */
function line({
  medium = "cable",
  left = {},
  right = {},
  routes,
  wan = {},
  flows = [],
}: Line = {}): NetworkModel {
  return NetworkModel.compile(
    planOf({
      devices: [
        host("desk", "10.1.0.10/24", "10.1.0.1"),
        {
          id: "left",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "wan", addresses: ["192.0.2.1/29"], ...wan },
          ],
          routes: routes ?? [{ to: "10.2.0.0/24", via: "192.0.2.2" }],
          ...left,
        },
        {
          id: "right",
          role: "router",
          interfaces: [
            { name: "wan", addresses: ["192.0.2.2/29"] },
            { name: "lan", addresses: ["10.2.0.1/24"] },
          ],
          routes: [{ to: "10.1.0.0/24", via: "192.0.2.1" }],
          ...right,
        },
        host("server", "10.2.0.10/24", "10.2.0.1"),
      ],
      links: [
        { id: "near", medium: "switch", ends: ["desk/eth0", "left/lan"] },
        { id: "mid", medium, ends: ["left/wan", "right/wan"] },
        { id: "far", medium: "switch", ends: ["server/eth0", "right/lan"] },
      ],
      flows: [{ id: "f", from: "desk", to: "10.2.0.10" }, ...flows],
    }),
  );
}

const up = (scenario: Scenario, end: string): boolean => {
  const { interfaces } = scenario.network;
  for (let i = 0; i < interfaces.names.length; i++)
    if (interfaceName(scenario.network, i) === end) return scenario.world.state.interfaceUp[i] === 1;
  throw new Error(`no interface ${end}`);
};
const verdict = (scenario: Scenario, flow = "f") => scenario.trips().get(flow)?.verdict;
const drop = (scenario: Scenario, flow = "f") => {
  const worst = scenario.trips().get(flow)?.worst;
  const found = worst?.outbound.drop ?? worst?.reply?.drop;
  return found ? { device: scenario.network.devices[found.device].id, code: found.code } : null;
};
const routes = (scenario: Scenario, device: string, to?: string): RouteReport[] =>
  tableReport(scenario.world, scenario.network.deviceIndex.get(device) ?? -1, "main").routes.filter(
    (route) => to === undefined || route.to === to,
  );
const codes = (model: NetworkModel) => findAll(model, { fixes: false }).map((finding) => finding.code);

describe("rule 2: what is up", () => {
  it("2.1: an interface needs itself, its device and its carrier; a loopback needs no carrier", () => {
    const model = line({
      left: {
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "wan", addresses: ["192.0.2.1/29"] },
          { name: "lo", kind: "loopback", addresses: ["10.255.0.1/32"] },
          { name: "spare", addresses: ["10.8.0.1/24"] },
        ],
      },
    });
    expect(up(model, "left/lo")).toBe(true);
    expect(up(model, "left/spare")).toBe(false);
    expect(up(model.under(["interface:left/lo"]), "left/lo")).toBe(false);
    expect(up(model.under(["device:left"]), "left/lo")).toBe(false);
    expect(up(line({ wan: { enabled: false } }), "left/wan")).toBe(false);
  });

  it("2.2: both ends of a cable notice whatever takes the other end down", () => {
    const model = line();
    for (const failed of ["link:mid", "interface:right/wan", "device:right"])
      expect(up(model.under([failed]), "left/wan"), failed).toBe(false);
  });

  it("2.3: a switch that fails takes carrier from every end; one end is not seen by the others", () => {
    const model = line({ medium: "switch" });
    expect(up(model.under(["link:mid"]), "left/wan")).toBe(false);
    expect(up(model.under(["interface:right/wan"]), "left/wan")).toBe(true);
    expect(up(model.under(["device:right"]), "left/wan")).toBe(true);
  });

  it("2.4: a circuit dies in silence: interfaces stay up and packets vanish", () => {
    const model = line({ medium: "circuit" });
    for (const failed of ["link:mid", "interface:right/wan", "device:right"])
      expect(up(model.under([failed]), "left/wan"), failed).toBe(true);
    expect(drop(model.under(["link:mid"]))).toEqual({ device: "left", code: "link-dead" });
  });
});

describe("rule 3: where routes come from", () => {
  it("3.2: static routes stand as written, each in its table", () => {
    const written = [
      { to: "10.2.0.0/24", via: "192.0.2.2", distance: 7, metric: 3 },
      { to: "10.3.0.0/16", discard: "reject" },
    ];
    const found = routes(line({ routes: written }), "left").filter((route) => route.source === "static");
    expect(found.map(({ to, via, distance, metric }) => ({ to, via, distance, metric }))).toEqual([
      { to: "10.2.0.0/24", via: "192.0.2.2", distance: 7, metric: 3 },
      { to: "10.3.0.0/16", via: null, distance: 1, metric: 0 },
    ]);
  });
});

describe("rule 4: which routes can be used", () => {
  const state = (route: Loose, more: Line = {}) => {
    const [found] = routes(
      line({ routes: [{ to: "10.2.0.0/24", ...route }], ...more }),
      "left",
      "10.2.0.0/24",
    );
    return found.state;
  };

  it("4.1: via with out needs out up and via on one of its prefixes, on-link or not", () => {
    expect(state({ via: "192.0.2.2", out: "wan" })).toBe("in-use");
    expect(state({ via: "198.51.100.9", out: "wan" })).toBe("unusable");
    expect(state({ via: "198.51.100.9", out: "wan", onLink: true })).toBe("in-use");
    expect(state({ via: "192.0.2.2", out: "wan" }, { wan: { enabled: false } })).toBe("unusable");
  });

  it("4.5: an IPv6 link-local next hop needs its interface", () => {
    const six = (route: Loose) =>
      routes(
        line({
          wan: { addresses: ["192.0.2.1/29", "2001:db8::1/64"] },
          routes: [{ to: "2001:db8:2::/64", ...route }],
        }),
        "left",
        "2001:db8:2::/64",
      )[0];
    expect(six({ via: "fe80::2" }).state).toBe("unusable");
    expect(six({ via: "fe80::2", out: "wan" }).state).toBe("in-use");
  });

  it("4.6: a route with a watch is usable only while the watch is up", () => {
    const model = line({
      routes: [{ to: "10.2.0.0/24", via: "192.0.2.2", watch: "lan" }],
      left: { watches: [{ id: "lan", kind: "interface", interface: "lan" }] },
    });
    expect(routes(model, "left", "10.2.0.0/24")[0].state).toBe("in-use");
    const [route] = routes(model.under(["watch:left/lan"]), "left", "10.2.0.0/24");
    expect(route).toMatchObject({ state: "unusable", reason: { code: "watch-down" } });
  });

  it("4.7: a route through a silent neighbour is installed, and packets die there", () => {
    const model = line({ routes: [{ to: "10.2.0.0/24", via: "192.0.2.6" }] });
    expect(routes(model, "left", "10.2.0.0/24")[0].state).toBe("in-use");
    expect(drop(model)).toEqual({ device: "left", code: "neighbour-silent" });
  });
});

describe("rule 5: which candidate is in use", () => {
  it("5.2: every candidate ends in one state, with the reason that decided", () => {
    const model = line({
      routes: [
        { to: "10.2.0.0/24", via: "192.0.2.2" },
        { to: "10.2.0.0/24", via: "192.0.2.3", distance: 9 },
        { to: "10.2.0.0/24", via: "203.0.113.9" },
        { to: "10.2.0.0/24", via: "192.0.2.4", enabled: false },
      ],
    });
    const found = routes(model, "left", "10.2.0.0/24");
    expect(found.map((route) => route.state)).toEqual(["in-use", "standby", "unusable", "disabled"]);
    expect(found[1].reason?.text).toContain("9 vs 1");
    expect(found[2].reason?.text).toBeTruthy();
  });

  it("5.3: the longest prefix in use forwards, not the longest that is written", () => {
    const model = line({
      routes: [
        { to: "10.2.0.0/16", via: "192.0.2.2" },
        { to: "10.2.0.0/24", via: "203.0.113.9" },
      ],
    });
    const address = model.flows()[0].question.destination;
    const left = model.network.deviceIndex.get("left") ?? -1;
    const { matches } = lookupReport(model.world, left, "main", address);
    expect(matches.map(({ to, state }) => [to, state])).toEqual([
      ["10.2.0.0/24", "unusable"],
      ["10.2.0.0/16", "in-use"],
    ]);
    expect(verdict(model)).toBe("works");
  });
});

describe("rule 6: the way of a packet", () => {
  it("6.4: the next hop must be owned by an interface that is up on the same link", () => {
    const silent = line({
      medium: "switch",
      right: {
        interfaces: [
          { name: "wan", addresses: ["192.0.2.2/29"], enabled: false },
          { name: "lan", addresses: ["10.2.0.1/24"] },
        ],
      },
    });
    expect(drop(silent)).toEqual({ device: "left", code: "neighbour-silent" });
    expect(drop(line())).toBeNull();
  });

  it("6.7: a drop names the device and a code", () => {
    expect(drop(line({ routes: [] }))).toEqual({ device: "left", code: "no-route" });
    expect(drop(line({ routes: [{ to: "10.2.0.0/24", discard: "drop" }] }))).toEqual({
      device: "left",
      code: "discarded",
    });
    expect(drop(line({ routes: [{ to: "10.2.0.0/24", discard: "reject" }] }))).toEqual({
      device: "left",
      code: "rejected",
    });
    expect(drop(line({ left: { forwarding: { ipv4: false } } }))).toEqual({
      device: "left",
      code: "forwarding-off",
    });
    const nobody = line({ flows: [{ id: "nobody", from: "desk", to: "10.2.0.77" }] });
    expect(drop(nobody, "nobody")).toEqual({ device: "right", code: "host-not-listening" });
  });
});

describe("rule 7: hosts, providers and the internet", () => {
  /** A host with two gateways, each of which leads to the server's network. */
  const twoGateways = (metrics: [number, number]) =>
    NetworkModel.compile(
      planOf({
        devices: [
          {
            id: "desk",
            role: "host",
            interfaces: [{ name: "eth0", addresses: ["10.1.0.10/24"] }],
            routes: [
              { to: "0.0.0.0/0", via: "10.1.0.1", metric: metrics[0] },
              { to: "0.0.0.0/0", via: "10.1.0.2", metric: metrics[1] },
            ],
          },
          ...[1, 2].map((n) => ({
            id: `g${n}`,
            role: "router",
            interfaces: [
              { name: "lan", addresses: [`10.1.0.${n}/24`] },
              { name: "up", addresses: [`10.2.0.${n}/24`] },
            ],
          })),
          host("server", "10.2.0.10/24", "10.2.0.1"),
        ],
        links: [
          { id: "lan", medium: "switch", ends: ["desk/eth0", "g1/lan", "g2/lan"] },
          { id: "up", medium: "switch", ends: ["server/eth0", "g1/up", "g2/up"] },
        ],
        flows: [{ id: "f", from: "desk", to: "10.2.0.10" }],
      }),
    );
  const first = (scenario: Scenario) =>
    scenario.network.devices[scenario.trips().get("f")?.worst.outbound.hops[1].device ?? -1].id;

  it("7.1: a host chooses its gateway by the lowest metric, and leaves a dead one", () => {
    expect(first(twoGateways([10, 20]))).toBe("g1");
    expect(first(twoGateways([20, 10]))).toBe("g2");
    expect(first(twoGateways([10, 20]).under(["device:g1"]))).toBe("g2");
  });

  it("7.2: a static next hop that names a handed-out gateway is told once that gateway is another", () => {
    const model = line({
      wan: { gatewayFrom: "dhcp" },
      routes: [
        { to: "0.0.0.0/0", via: "192.0.2.2" },
        { to: "10.2.0.0/24", via: "192.0.2.2" },
      ],
    });
    expect(codes(model)).toContain("stale-gateway");
  });

  /** desk – edge – isp – internet. */
  const outside = (announces: string[]) =>
    NetworkModel.compile(
      planOf({
        devices: [
          host("desk", "198.51.100.10/24", "198.51.100.1"),
          {
            id: "edge",
            role: "router",
            interfaces: [
              { name: "lan", addresses: ["198.51.100.1/24"] },
              { name: "wan", addresses: ["192.0.2.2/30"] },
            ],
            routes: [{ to: "0.0.0.0/0", via: "192.0.2.1" }],
          },
          {
            id: "isp",
            role: "provider",
            interfaces: [
              { name: "edge", addresses: ["192.0.2.1/30"] },
              { name: "net", addresses: ["203.0.113.2/30"] },
            ],
            routes: [{ to: "198.51.100.0/24", via: "192.0.2.2" }],
            announces,
          },
          { id: "net", role: "internet", interfaces: [{ name: "isp", addresses: ["203.0.113.1/30"] }] },
        ],
        links: [
          { id: "lan", medium: "switch", ends: ["desk/eth0", "edge/lan"] },
          { id: "wan", ends: ["edge/wan", "isp/edge"] },
          { id: "net", ends: ["isp/net", "net/isp"] },
        ],
        flows: [
          { id: "f", from: "desk", to: "203.0.113.200" },
          { id: "private", from: "desk", to: "10.99.0.1" },
        ],
      }),
    );

  it("7.3: a provider knows a default towards its link with the internet", () => {
    const system = routes(outside([]), "isp").filter((route) => route.source === "system");
    expect(system.map((route) => route.to)).toContain("0.0.0.0/0");
  });

  it("7.4: the internet answers for every address, sends back only what is announced, and drops what is private", () => {
    expect(verdict(outside(["198.51.100.0/24"]))).toBe("works");
    expect(verdict(outside([]))).not.toBe("works");
    expect(drop(outside(["198.51.100.0/24"]), "private")?.code).toBe("private-at-internet");
  });
});

describe("rules 9 and 10: watches and time", () => {
  it("9.5: a probe's own packets use the table that its result changes: where states repeat, it flaps", () => {
    const spare = (n: number, zone: Loose[]) => [
      ...zone,
      { name: "spare", addresses: [`198.51.100.${n}/30`] },
    ];
    const model = NetworkModel.compile(
      planOf({
        devices: [
          host("desk", "10.1.0.10/24", "10.1.0.1"),
          {
            id: "left",
            role: "router",
            interfaces: spare(1, [
              { name: "lan", addresses: ["10.1.0.1/24"] },
              { name: "wan", addresses: ["192.0.2.1/30"] },
            ]),
            routes: [
              { to: "10.2.0.0/24", via: "192.0.2.2", watch: "w" },
              { to: "10.2.0.0/24", via: "198.51.100.2", distance: 9 },
            ],
            watches: [{ id: "w", kind: "probe", target: "10.2.0.10" }],
          },
          {
            id: "right",
            role: "router",
            interfaces: spare(2, [
              { name: "lan", addresses: ["10.2.0.1/24"] },
              { name: "wan", addresses: ["192.0.2.2/30"] },
            ]),
            routes: [{ to: "10.1.0.0/24", via: "198.51.100.1" }],
          },
          host("server", "10.2.0.10/24", "10.2.0.1"),
        ],
        links: [
          { id: "near", medium: "switch", ends: ["desk/eth0", "left/lan"] },
          { id: "wan", medium: "circuit", ends: ["left/wan", "right/wan"] },
          { id: "spare", ends: ["left/spare", "right/spare"] },
          { id: "far", medium: "switch", ends: ["server/eth0", "right/lan"] },
        ],
        flows: [{ id: "f", from: "desk", to: "10.2.0.10" }],
      }),
    );
    expect(model.settled.flapping).toEqual([]);
    // The line is dead: the probe fails, the spare takes over, the probe is answered by it, and so on without end.
    expect(model.under(["link:wan"]).settled.flapping.length).toBeGreaterThan(1);
    // With the spare dead as well there is nothing to swing to.
    expect(model.under(["link:wan", "link:spare"]).settled.flapping).toEqual([]);
  });

  it("9.6: a target that is pinned to one way drags every flow to that address with it: a finding", () => {
    const model = line({
      routes: [
        { to: "10.2.0.10/32", via: "192.0.2.2" },
        { to: "10.2.0.0/24", via: "192.0.2.2", watch: "w" },
        { to: "10.2.0.0/24", via: "192.0.2.3", distance: 9 },
      ],
      left: { watches: [{ id: "w", kind: "probe", target: "10.2.0.10" }] },
    });
    expect(codes(model)).toContain("pinned-target-used");
  });

  it("10.3: each flow's verdict, its gap and whether it comes back by itself", () => {
    const model = line();
    const steps = model.stepsOf([
      { atMs: 0, fail: ["link:mid"] },
      { atMs: 5000, restore: ["link:mid"] },
    ]);
    const [flow] = timelineReport(model.engine, model.gateways, steps).flows;
    expect(flow.spans.at(-1)).toMatchObject({ verdict: "works", toMs: null });
    expect(flow.outageMs.min).toBeGreaterThanOrEqual(5000);
    expect(flow.outageMs.max).toBeLessThanOrEqual(5200);
    expect(flow.lost.min).toBeGreaterThan(0);
  });
});

describe("rule 12: findings", () => {
  it("12.1: a flow that does not arrive and one without a return path are told apart", () => {
    expect(codes(line({ routes: [] }))).toContain("flow-fails");
    expect(codes(line({ right: { routes: [] } }))).toContain("missing-return-route");
  });

  it("12.2: a route that no other finding explains is told as unusable", () => {
    const model = line({
      routes: [
        { to: "10.2.0.0/24", via: "192.0.2.2" },
        { to: "10.7.0.0/16", out: "lan", via: "192.0.2.2" },
      ],
    });
    const told = findAll(model, { fixes: false }).filter((finding) => finding.device === "left");
    expect(told.length).toBeGreaterThan(0);
  });
});
