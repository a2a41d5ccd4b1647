import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { formatAddress, parseAddress } from "../../core/address/index.ts";
import { type Plan, readPlan } from "../../core/plan/index.ts";
import { nextHopsOf } from "../../core/routes/index.ts";
import { findRoute } from "../../core/walk/index.ts";
import { readFiles } from "../../exchange/readings.ts";
import { canBuild, Lab } from "../../lab/lab.ts";
import { missingServers, PORT } from "../../lab/management.ts";
import { demoPlan, engineOf, routesOf, tripOf, worldWith } from "../support/plans.ts";
import { Random } from "../support/random.ts";
import { kernelPlan } from "./plans.ts";
import { expectReadAlike, pingsOf } from "./read-alike.ts";
import { readAll, secretsOf, withoutUntold, withServers } from "./read-live.ts";

const able = canBuild();
const served = missingServers().length === 0;
if (able && !served) console.warn("Live reading of kernels is skipped: it needs snmpd and openssh-server.");
if (!able)
  console.warn(
    "The kernel comparison is skipped: it needs root, iproute2 and ping to make network namespaces.",
  );

/** The part of the demo that a kernel can be: routers and hosts inside, distances as metrics. */
function demoInside(): Plan {
  const plan = demoPlan("marrow-bay");
  const sites = ["office", "data-hall", "yard", "skerry", "longhaven", "gull-rock"];
  const devices = plan.devices
    .filter(
      (device) =>
        (device.role === "router" || device.role === "host") &&
        sites.includes(device.site ?? "") &&
        // Nobody here acts as the kiosk's shared gateway.
        !["booking", "kiosk"].includes(device.id),
    )
    .map((device) => ({
      ...device,
      profile: device.role === "router" ? "metric-router" : "host",
      routes: device.routes.map(({ distance, ...route }) => ({ ...route, metric: distance ?? 1 })),
    }));
  const kept = new Set(devices.map((device) => device.id));
  const links = plan.links
    .map((link) => ({ ...link, ends: link.ends.filter((end) => kept.has(end.slice(0, end.indexOf("/")))) }))
    .filter((link) => link.ends.length > 1);
  const flows = plan.flows.filter((flow) => kept.has(flow.from) && kept.has(flow.to));
  const reading = readPlan({ ironFork: 1, name: "inside", devices, links, flows });
  if (!reading.ok) throw new Error(reading.errors[0].message);
  return reading.plan;
}

async function compare(
  plan: Plan,
  name: string,
  scenarios: readonly string[][],
  live?: (lab: Lab) => Promise<void>,
) {
  const lab = new Lab(plan, `if${process.pid % 10000}${name}`);
  try {
    lab.build();
    await compareIn(lab, plan, scenarios);
    await live?.(lab);
  } finally {
    lab.remove();
  }
}

async function compareIn(lab: Lab, plan: Plan, scenarios: readonly string[][]) {
  const engine = engineOf(plan);

  // Rule 4: the kernel takes exactly the routes that are usable with no failures.
  for (const device of plan.devices) {
    const reports = routesOf(engine.healthy.world, device.id);
    for (const [i, route] of device.routes.entries()) {
      if (route.enabled === false) continue;
      const own = reports.find(
        (r) =>
          r.source === "static" &&
          r.to === route.to &&
          r.via === (route.via ?? null) &&
          r.metric === (route.metric ?? 0),
      );
      expect(`${device.id} ${route.to} ${route.via}: ${own?.state !== "unusable"}`).toBe(
        `${device.id} ${route.to} ${route.via}: ${!lab.refused.has(`${device.id} ${i}`)}`,
      );
    }
  }

  const addresses = plan.devices
    .filter((d) => d.role === "host")
    .map((d) => d.interfaces[0].addresses[0].split("/")[0]);
  for (const failed of scenarios) {
    for (const ref of failed) lab.set(ref, false);
    const world = worldWith(engine, ...failed);

    // Rules 4 and 5: every router's own lookup of every host.
    for (const device of plan.devices.filter((d) => d.role === "router")) {
      if (failed.includes(`device:${device.id}`)) continue;
      const record = engine.network.devices[engine.network.deviceIndex.get(device.id) as number];
      const answers = lab.lookups(device.id, addresses);
      for (const text of addresses) {
        const address = parseAddress(text);
        if (!address) throw new Error(text);
        const found = findRoute(world, record, 0, {
          source: null,
          destination: address,
          protocol: "icmp",
          port: null,
          in: -1,
          mark: null,
        });
        const [hop] = found
          ? nextHopsOf(engine.network, world.tablesOf(record.index), found.candidates[0])
          : [];
        const ours = hop
          ? {
              out: engine.network.interfaces.names[hop.out],
              via: hop.address ? formatAddress(hop.address) : null,
            }
          : null;
        const { source: _source, ...sent } = answers.get(text) ?? { source: null };
        expect({ at: device.id, to: text, failed, ...sent }).toEqual({
          at: device.id,
          to: text,
          failed,
          ...ours,
        });
      }
    }

    // Rule 6: real pings both ways.
    const flows = plan.flows.map((flow) => ({ flow, trip: tripOf(world, flow.from, flow.to) }));
    const answered = await lab.pings(pingsOf(plan));
    for (const [i, { flow, trip }] of flows.entries()) {
      expect({ flow: flow.id, failed, works: trip.verdict === "works" }).toEqual({
        flow: flow.id,
        failed,
        works: answered[i],
      });
    }
    if (failed.length === 0) {
      const files = plan.devices.flatMap((device) => lab.collected(device.id));
      expectReadAlike(plan, readFiles(files), answered);
    }
    for (const ref of failed) lab.set(ref, true);
  }
}

/** Read by SNMP and by SSH, the devices give the true links, no false one, and the pings (exchange.md, "Live"). */
async function compareLive(lab: Lab, whole: Plan, seed: number) {
  const plan = withoutUntold(lab, whole);
  // Links have just come back: a first ping may be lost to neighbours being found anew, on a busy machine both.
  const [first, second] = [await lab.pings(pingsOf(plan)), await lab.pings(pingsOf(plan))];
  const answered = first.map((answer, i) => answer || second[i]);
  await withServers(lab, plan, { snmp: true, ssh: true, neighbours: false }, async (management) => {
    const { v2c, v3, ssh } = secretsOf(management);
    const switched = plan.devices.map(({ id }) => `${id}/${PORT}`);
    for (const secret of [seed % 2 ? v2c : v3, ssh])
      expectReadAlike(plan, await readAll(plan, management, secret), answered, [switched]);
  });
}

// Most of the time goes by waiting for pings: several networks stand side by side.
describe.skipIf(!able).concurrent("the Linux kernel agrees", () => {
  it("on the inside of the demo network", async () => {
    await compare(demoInside(), "demo", [
      [],
      ["link:longhaven-1"],
      ["link:longhaven-2"],
      ["link:hall-1"],
      ["link:office-core"],
      ["device:office-core-2"],
      ["interface:hall-router/core1"],
      ["link:hall-1", "link:longhaven-1"],
      ["link:yard-line"],
    ]);
  }, 120_000);

  // Fresh seeds in each run; repeatable with SEED=….
  const seeds = fc.sample(fc.noBias(fc.integer({ min: 1, max: 999_999 })), 14);
  it.each(seeds.map((seed, n) => [seed, n] as const))(
    "on random plan %i, healthy and with failures; and what its devices say, by SNMP and SSH too, is that plan",
    async (seed, n) => {
      const plan = kernelPlan(seed);
      const random = new Random(seed * 7);
      const routers = plan.devices.filter((d) => d.role === "router");
      const link = random.pick(plan.links);
      const device = random.pick(routers);
      const port = random.pick(random.pick(routers).interfaces).name;
      const owner = routers.find((d) => d.interfaces.some((i) => i.name === port));
      const scenarios = [
        [],
        [`link:${link.id}`],
        [`device:${device.id}`],
        [`interface:${owner?.id}/${port}`],
      ];
      await compare(plan, String(n), scenarios, served ? (lab) => compareLive(lab, plan, seed) : undefined);
    },
    120_000,
  );
});
