import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoPlan, engineOf, planOf, tripOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { formatAddress, formatPrefix, makeAddress, parsePrefix, prefixOf } from "../address/index.ts";
import { impactOf } from "../impact/index.ts";
import {
  applyEdit,
  type Change,
  type Edit,
  type Plan,
  routeIdentity,
  type StaticRoute,
  staticRouteSchema,
} from "../plan/index.ts";
import { repairOf } from "../remedies/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { askFrom, walkBothWays } from "../walk/index.ts";
import {
  breaksOfSteps,
  companionsOf,
  completeRouteLine,
  formatRouteLine,
  groupsAlike,
  lineOfFields,
  readRouteLine,
  returnRoutesEverywhere,
  routesWithin,
  summaryOf,
} from "./index.ts";

function take(plan: Plan, edit: Edit): Plan {
  const outcome = applyEdit(plan, edit);
  if (!outcome.ok) throw new Error(outcome.errors.map((error) => error.message).join("; "));
  return outcome.plan;
}

const address4 = fc.nat(0xffffffff).map((w) => formatAddress(makeAddress(4, w)));
const prefix4 = fc
  .tuple(fc.nat(0xffffffff), fc.integer({ min: 0, max: 32 }))
  .map(([w, length]) => formatPrefix(prefixOf(makeAddress(4, w), length)));
const word = fc
  .stringMatching(/^[a-z][a-z0-9-]{0,8}$/)
  .filter(
    (text) =>
      ![
        "note",
        "via",
        "out",
        "off",
        "vrf",
        "watch",
        "metric",
        "reject",
        "resolve",
        "discard",
        "distance",
        "default",
        "on-link",
        "to-vrf",
      ].includes(text),
  );

const route = fc
  .record(
    {
      to: prefix4,
      via: fc.option(address4, { nil: undefined }),
      out: fc.option(word, { nil: undefined }),
      vrf: fc.option(word, { nil: undefined }),
      distance: fc.option(fc.integer({ min: 1, max: 255 }), { nil: undefined }),
      metric: fc.option(fc.nat(1000), { nil: undefined }),
      watch: fc.option(word, { nil: undefined }),
      resolve: fc.option(fc.constantFrom("any" as const, "connected" as const), { nil: undefined }),
      enabled: fc.option(fc.constant(false), { nil: undefined }),
      note: fc.option(fc.stringMatching(/^[a-z]{1,8}( [a-z:]{1,8}){0,3}$/), { nil: undefined }),
    },
    { requiredKeys: ["to"] },
  )
  .map((fields) => staticRouteSchema.safeParse(JSON.parse(JSON.stringify(fields))))
  .filter((parsed) => parsed.success)
  .map((parsed) => parsed.data as StaticRoute);

describe("the route line", () => {
  it("reads what it writes", () => {
    fc.assert(
      fc.property(route, fc.array(word, { maxLength: 3 }), (written, devices) => {
        const line = formatRouteLine(written, devices);
        const reading = readRouteLine(line);
        expect(reading.errors).toEqual([]);
        expect(reading.route).toEqual(written);
        expect(reading.devices.map((token) => token.text)).toEqual(devices);
        expect(lineOfFields(reading.fields, devices)).toBe(line);
      }),
    );
  });

  it("never throws, and says of any text where it is wrong", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        const { route: read, errors } = readRouteLine(text);
        expect(read === null).toBe(errors.length > 0 || text.trim() === "");
        for (const error of errors) expect(error.message.length).toBeGreaterThan(3);
      }),
      { numRuns: 150 },
    );
  });

  it.each([
    ["default via 192.0.2.1", { to: "0.0.0.0/0", via: "192.0.2.1" }],
    ["default via 2001:db8::1", { to: "::/0", via: "2001:db8::1" }],
    ["192.0.2.7 via 192.0.2.1", { to: "192.0.2.7/32", via: "192.0.2.1" }],
    ["2001:db8:1::/48 reject", { to: "2001:db8:1::/48", discard: "reject" }],
    ["a: 10.0.0.0/8 discard off", { to: "10.0.0.0/8", discard: "drop", enabled: false }],
    ["10.0.0.0/8 via fe80::1 out x", null],
    // As engineers type it elsewhere.
    ["0.0.0.0 0.0.0.0 192.0.2.1", { to: "0.0.0.0/0", via: "192.0.2.1" }],
    ["10.1.0.0/16 192.0.2.1 200", { to: "10.1.0.0/16", via: "192.0.2.1", distance: 200 }],
    [
      "route add -net 10.1.0.0 netmask 255.255.0.0 gw 192.0.2.1 dev wan1",
      { to: "10.1.0.0/16", via: "192.0.2.1", out: "wan1" },
    ],
    ["ip route 10.9.0.0 255.255.0.0 null0", { to: "10.9.0.0/16", discard: "drop" }],
    [
      "10.1.0.0/16 gateway 192.0.2.1 preference 5 cost 7",
      { to: "10.1.0.0/16", via: "192.0.2.1", distance: 5, metric: 7 },
    ],
    ["2001:db8:1::/48 2001:db8::1 5", { to: "2001:db8:1::/48", via: "2001:db8::1", distance: 5 }],
  ])("%s", (line, wanted) => {
    expect(readRouteLine(line).route).toEqual(wanted);
  });

  it.each([
    ["10.0.0.1/8 via 192.0.2.1", "to", "the prefix is 10.0.0.0/8"],
    ["10.0.0.0/8 via", "via", 'after "via"'],
    ["10.0.0.0/8 via 192.0.2.1 via 192.0.2.2", "via", "appears twice"],
    ["10.0.0.0/8 by 192.0.2.1", "line", '"by" is not a keyword of a route line'],
    ["10.0.0.0/8 via 192.0.2.1 distance far", "distance", '"far" is not a whole number'],
    ["via 192.0.2.1", "to", "destination missing"],
    ["10.1.0.0/16 192.0.2.1 192.0.2.2", "line", "a line for each next hop"],
    ["10.1.0.0/16 via 192.0.2.1 far", "line", '"far" is not a keyword'],
  ])("%s is wrong at %s", (line, field, message) => {
    const error = readRouteLine(line).errors.find((one) => one.field === field);
    expect(error?.message).toContain(message);
  });

  it("is completed from what the plan holds", () => {
    const { network } = engineOf(demoPlan("marrow-bay"));
    const at = (text: string, device: string | null = "tern-edge") =>
      completeRouteLine(network, text, text.length, device).map((c) => c.insert);
    expect(at("", null)).toContain("office-fw:");
    expect(at("ter", null)[0]).toBe("tern-edge:");
    expect(at("default via ")).toEqual(expect.arrayContaining(["198.51.100.1", "192.0.2.5"]));
    expect(at("default via 192")).toEqual(["192.0.2.5"]);
    expect(at("gull-edge: default via ", null)).toEqual(["172.20.255.21", "172.20.64.10"]);
    expect(at("default via 192.0.2.5 out ")).toEqual(["wan1", "wan2", "lan"]);
    expect(at("172.20.32")).toContain("172.20.32.0/24");
    expect(at("default via 192.0.2.5 dist")).toEqual(["distance"]);
    expect(at("default via 192.0.2.5 note whatever via ")).toEqual([]);
    const [first] = completeRouteLine(network, "default vi 1", 10, "tern-edge");
    expect(first).toMatchObject({ insert: "via", from: 8, to: 10 });
  });
});

describe("companions", () => {
  const skerry = (plan: Plan, n: number) => {
    const { routes } = plan.devices.find((d) => d.id === "skerry-edge") as Plan["devices"][number];
    return companionsOf(NetworkModel.compile(plan), "skerry-edge", routes[n]);
  };

  it("protect a terminal whose line fails in silence: twin, watch on both ends, return path", () => {
    let plan = demoPlan("marrow-bay");
    const fails = (p: Plan) =>
      NetworkModel.compile(p).under(["link:skerry-line"]).trips().get("skerry-booking")?.verdict;
    expect(fails(plan)).toBe("fails");
    const twin = skerry(plan, 0).find((c) => c.kind === "floating");
    expect(twin?.edit.changes[0].after).toEqual({ to: "0.0.0.0/0", via: "172.20.255.29", distance: 11 });
    plan = take(plan, twin?.edit as Edit);
    // The twin alone does nothing: the interface stays up.
    expect(fails(plan)).toBe("fails");
    const watch = skerry(plan, 0).find((c) => c.kind === "watch");
    const ends = watch?.edit.changes.filter((c) => "collection" in c && c.collection === "watches");
    expect(ends?.map((c) => ("device" in c ? c.device : ""))).toEqual(["skerry-edge", "office-core-1"]);
    plan = take(plan, watch?.edit as Edit);
    const back = skerry(plan, 1).find((c) => c.kind === "other-end");
    expect(back?.edit.changes.map((c) => c.after)).toEqual([
      { to: "172.20.32.0/20", distance: 11, via: "172.20.255.26" },
      { to: "172.20.32.0/24", via: "172.20.255.30" },
    ]);
    plan = take(plan, back?.edit as Edit);
    expect(fails(plan)).toBe("works");
    expect(NetworkModel.compile(plan).trips().get("skerry-booking")?.verdict).toBe("works");
    // Nothing is missing any more: no second twin, no second watch, no return path.
    expect(skerry(plan, 0).map((c) => c.kind)).toEqual([]);
  });

  it("offer a probe only where its answer finds its return path, pinned and of an address that no flow uses", () => {
    const plan = demoPlan("marrow-bay");
    const scenario = NetworkModel.compile(plan);
    const used = new Set(plan.flows.map((flow) => flow.to));
    let probes = 0;
    for (const device of plan.devices) {
      for (const own of device.routes) {
        for (const { kind, edit } of companionsOf(scenario, device.id, own)) {
          const after = edit.changes.map(
            (change) => change.after as { kind?: string; target?: string; to?: string },
          );
          const probe = after.find((item) => item?.kind === "probe");
          if (kind !== "watch" || !probe) continue;
          probes++;
          expect(used).not.toContain(probe.target);
          expect(
            after.some((item) => item?.to === `${probe.target}/${probe.target?.includes(":") ? 128 : 32}`),
          ).toBe(true);
          const outcome = impactOf(NetworkModel.compile(plan), edit);
          expect(
            outcome.ok &&
              outcome.effect.flows.filter(
                (f) => f.after?.verdict !== "works" && f.before?.verdict === "works",
              ),
          ).toEqual([]);
        }
      }
    }
    expect(probes).toBeGreaterThan(3);
  });

  it("of any route of random plans can be taken: they are sound edits", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const plan = randomPlan(seed);
        const scenario = NetworkModel.compile(plan);
        for (const device of plan.devices) {
          for (const own of device.routes.slice(0, 2)) {
            for (const { edit } of companionsOf(scenario, device.id, own)) take(plan, edit);
          }
        }
      }),
      { numRuns: 12 },
    );
  });
});

describe("mending", () => {
  it("finds again what a working plan lost, and breaks nothing that works", () => {
    let lost = 0;
    let mended = 0;
    for (let seed = 1; seed <= 30; seed++) {
      const whole = randomPlan(seed);
      const random = new Random(seed);
      const working = [...NetworkModel.compile(whole).trips()].filter(
        ([, trip]) => trip?.verdict === "works",
      );
      const device = random.pick(whole.devices.filter((d) => d.role === "router" && d.routes.length > 0));
      if (working.length === 0 || !device) continue;
      const plan = take(whole, {
        label: "lose",
        changes: [
          {
            in: "device",
            device: device.id,
            collection: "routes",
            before: random.pick(device.routes),
            after: null,
          },
        ],
      });
      const scenario = NetworkModel.compile(plan);
      for (const [id] of working) {
        const flow = plan.flows.find((f) => f.id === id);
        const asked = flow && askFrom(scenario.engine.network, flow);
        if (!asked?.ok || walkBothWays(scenario.engine.healthy.world, asked.question).verdict === "works")
          continue;
        lost++;
        const edit = repairOf(scenario, asked.question);
        if (!edit) continue;
        mended++;
        const now = NetworkModel.compile(take(plan, edit)).trips();
        expect(now.get(id)?.verdict).toBe("works");
        for (const [other, trip] of scenario.trips())
          if (trip?.verdict === "works") expect(now.get(other)?.verdict).toBe("works");
      }
    }
    expect(lost).toBeGreaterThan(10);
    // Only one route of a neighbor was removed, so it must be found nearly always.
    expect(mended / lost).toBeGreaterThan(0.9);
  });

  it("gives hosts their gateways", () => {
    const plan = planOf({
      devices: [
        { id: "a", role: "host", interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }] },
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "x", addresses: ["10.1.0.1/24"] },
            { name: "y", addresses: ["10.2.0.1/24"] },
          ],
        },
        { id: "b", role: "host", interfaces: [{ name: "e", addresses: ["10.2.0.20/24"] }] },
      ],
      links: [
        { id: "x", ends: ["a/e", "r/x"] },
        { id: "y", ends: ["r/y", "b/e"] },
      ],
    });
    const scenario = NetworkModel.compile(plan);
    const asked = askFrom(scenario.engine.network, { from: "a", to: "10.2.0.20" });
    const edit = asked.ok ? repairOf(scenario, asked.question) : null;
    expect(edit?.changes.map((change) => ("device" in change ? [change.device, change.after] : []))).toEqual([
      ["a", { to: "0.0.0.0/0", via: "10.1.0.1" }],
      ["b", { to: "0.0.0.0/0", via: "10.2.0.1" }],
    ]);
  });

  it("finds every route that a network lacks", () => {
    const plan = demoPlan("marrow-bay");
    const { edit } = returnRoutesEverywhere(
      NetworkModel.compile(plan),
      parsePrefix("172.20.80.0/24") as NonNullable<ReturnType<typeof parsePrefix>>,
    );
    const mended = take(plan, edit as Edit);
    const { world } = NetworkModel.compile(mended).engine.healthy;
    for (const target of ["booking", "timetable", "office-pc", "gull-desk"]) {
      const trip = tripOf(world, "longhaven-cam", target);
      if (trip.verdict === "one-way") expect(trip.worst.reply?.drop?.code).not.toBe("no-route");
    }
    expect(tripOf(world, "longhaven-cam", "timetable").verdict).toBe("works");
  });
});

describe("summaries of written routes", () => {
  const core = (plan: Plan) => plan.devices.find((d) => d.id === "office-core-1") as Plan["devices"][number];
  const yard = (plan: Plan) =>
    core(plan)
      .routes.filter((r) => r.via === "172.20.255.26")
      .map(routeIdentity);

  it("replace six by one with its discard behind it, in an order without a gap", () => {
    const plan = demoPlan("marrow-bay");
    const scenario = NetworkModel.compile(plan);
    const { options, ruler } = summaryOf(scenario, "office-core-1", yard(plan));
    expect(ruler?.prefix).toBe("172.20.96.0/21");
    expect(options.map((o) => [o.kind, o.prefixes.join(), o.saved])).toEqual([
      ["exact", "172.20.96.0/22,172.20.100.0/23", 4],
      ["single", "172.20.96.0/21", 5],
    ]);
    const single = options[1];
    expect(single.swallows).toEqual([{ prefix: "172.20.102.0/23", kind: "unowned", by: [] }]);
    expect(
      single.edit.changes
        .slice(0, 2)
        .map((c) => ("device" in c ? [c.device, (c.after as StaticRoute).to] : [])),
    ).toEqual([
      ["yard-router", "172.20.96.0/21"],
      ["office-core-1", "172.20.96.0/21"],
    ]);
    for (const option of options) {
      expect(option.flows).toEqual([]);
      expect(option.owned).toEqual([]);
      expect(option.steps.flatMap((step) => step.breaks)).toEqual([]);
    }
    expect(
      single.unowned.every((range) => range.after.code === "discarded" && range.after.at === "yard-router"),
    ).toBe(true);
    expect(options[0].unowned).toEqual([]);
  });

  it("tell of every step which flows it breaks, as each state compiled by itself does", () => {
    let broken = 0;
    let mended = 0;
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.boolean(), (seed, mistakes) => {
        const plan = randomPlan(seed, { mistakes });
        const random = new Random(seed);
        const scenario = NetworkModel.compile(plan);
        const working = [...scenario.trips()].flatMap(([id, trip]) =>
          trip?.verdict === "works" ? [id] : [],
        );
        // Some routes out, one after the other, and in again.
        const taken = plan.devices.flatMap(({ id, routes }) =>
          routes.filter(() => random.chance(0.3)).map((route) => ({ device: id, route })),
        );
        const change = (device: string, before: StaticRoute | null, after: StaticRoute | null): Change => ({
          in: "device",
          device,
          collection: "routes",
          before,
          after,
        });
        const changes = [
          ...taken.map(({ device, route }) => change(device, route, null)),
          ...taken.map(({ device, route }) => change(device, null, { ...route, to: "0.0.0.0/0" })),
        ];
        let now = plan;
        const fitting: Change[] = [];
        const apart = changes.flatMap((one) => {
          const outcome = applyEdit(now, { label: "step", changes: [one] });
          if (!outcome.ok) return [];
          fitting.push(one);
          now = outcome.plan;
          const trips = NetworkModel.compile(now).trips();
          const lost = working.filter((flow) => trips.get(flow)?.verdict !== "works");
          return [{ breaks: lost.map((flow) => plan.flows.find((f) => f.id === flow)?.label ?? flow) }];
        });
        const steps = breaksOfSteps(scenario, { label: "steps", changes: fitting });
        expect(steps).toEqual(apart);
        const counts = steps.map(({ breaks }) => breaks.length);
        broken += counts.filter((count, n) => count > (counts[n - 1] ?? 0)).length;
        mended += counts.filter((count, n) => count < (counts[n - 1] ?? 0)).length;
      }),
      { numRuns: 30 },
    );
    expect(Math.min(broken, mended)).toBeGreaterThan(5);
  });

  it("tell what a single one swallows that lies elsewhere", () => {
    const plan = planOf({
      devices: [
        {
          id: "a",
          role: "router",
          interfaces: [
            { name: "x", addresses: ["192.0.2.1/30"] },
            { name: "y", addresses: ["192.0.2.5/30"] },
          ],
          routes: [
            { to: "10.0.0.0/24", via: "192.0.2.2" },
            { to: "10.0.3.0/24", via: "192.0.2.2" },
            { to: "0.0.0.0/0", via: "192.0.2.6" },
          ],
        },
        {
          id: "b",
          role: "router",
          interfaces: [
            { name: "x", addresses: ["192.0.2.2/30"] },
            { name: "l", kind: "loopback", addresses: ["10.0.0.1/24"] },
            { name: "m", kind: "loopback", addresses: ["10.0.3.1/24"] },
          ],
        },
        {
          id: "c",
          role: "router",
          interfaces: [
            { name: "y", addresses: ["192.0.2.6/30"] },
            { name: "l", kind: "loopback", addresses: ["10.0.1.1/24"] },
          ],
        },
      ],
      links: [
        { id: "x", ends: ["a/x", "b/x"] },
        { id: "y", ends: ["a/y", "c/y"] },
      ],
    });
    const scenario = NetworkModel.compile(plan);
    expect(groupsAlike(scenario, "a").map((group) => group.length)).toEqual([2]);
    const { options } = summaryOf(scenario, "a", plan.devices[0].routes.slice(0, 2).map(routeIdentity));
    const [single] = options;
    expect(single.prefixes).toEqual(["10.0.0.0/22"]);
    expect(single.swallows).toContainEqual({ prefix: "10.0.1.0/24", kind: "elsewhere", by: ["c"] });
    // Traffic to other destinations changes too, and is listed.
    expect(single.owned.some((range) => range.range.startsWith("10.0.1."))).toBe(true);
  });

  it("take the routes inside a block, and say why routes do not go together", () => {
    const plan = demoPlan("marrow-bay");
    const scenario = NetworkModel.compile(plan);
    expect(routesWithin(scenario, "office-core-1", "172.20.96.0/20")).toHaveLength(6);
    const mixed = core(plan)
      .routes.filter((r) => r.to === "172.20.48.0/24" || r.to === "172.20.64.0/24")
      .map(routeIdentity);
    expect(summaryOf(scenario, "office-core-1", mixed)).toMatchObject({
      options: [],
      obstacle: expect.stringContaining("differ in more than their destination"),
    });
    expect(summaryOf(scenario, "office-core-1", mixed.slice(0, 1)).obstacle).toBe(
      "choose at least two routes",
    );
  });
});
