import { spawn } from "node:child_process";
import { describe, expect, it } from "vitest";
import { formatAddress } from "../../core/address/index.ts";
import { applyEdit, type Change, type Device, type Plan, type StaticRoute } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { runbookOf } from "../../core/steps/index.ts";
import { type TextedRunbook, withTexts } from "../../exchange/texts/index.ts";
import { batchOf } from "../../exchange/writers/batch.ts";
import { iproute2Files } from "../../exchange/writers/iproute2.ts";
import { kernelOf, tablesOf } from "../../exchange/writers/kernel.ts";
import { canBuild, Lab } from "../../lab/lab.ts";
import { batch, run } from "../../lab/shell.ts";
import { planOf } from "../support/plans.ts";
import { Random } from "../support/random.ts";
import { kernelPlan } from "./plans.ts";

const able = canBuild();
if (!able)
  console.warn(
    "Texts are not tried on kernels: it needs root, iproute2 and ping to make network namespaces.",
  );

/** A plan's network with no routes yet: those come by the texts that are tried. */
function bare(plan: Plan): Plan {
  return { ...plan, devices: plan.devices.map((device) => ({ ...device, routes: [], policyTables: [] })) };
}

/** Lines of a batch that are of routes and rules: the lab has made interfaces and addresses already. */
const ofRoutes = (lines: readonly string[]) => lines.filter((line) => /^(-6 )?(route|rule) /.test(line));

/** Configures a namespace with a plan's routes as written; the kernel's refusals match the plan's own rules. */
function configure(lab: Lab, plan: Plan) {
  for (const device of plan.devices) {
    const lines = ofRoutes(batchOf(kernelOf(plan, device, tablesOf(device))));
    for (const line of lines) apply(lab, device.id, line);
  }
}

/** Runs one line; whether the kernel took it. */
function apply(lab: Lab, device: string, line: string): boolean {
  const words = line.split(" ");
  return run("ip", ["-n", lab.namespace(device), ...words], true).status === 0;
}

/** What a kernel holds of routes and rules, in an order of ours. */
function held(lab: Lab, device: string): string[] {
  const show = (...args: string[]) =>
    run("ip", ["-n", lab.namespace(device), ...args])
      .stdout.split("\n")
      .map((line) => line.trim().replace(/\s+/g, " "));
  const lines = ["-4", "-6"].flatMap((family) => [
    ...show(family, "route", "show", "table", "all", "proto", "static"),
    ...show(family, "rule", "show"),
  ]);
  return lines.filter(Boolean).sort();
}

/** Routes added, removed and changed on routers, distances as metrics. */
function drafted(plan: Plan, random: Random): Plan {
  let now = plan;
  const vias = plan.devices.flatMap(({ id, routes }) =>
    routes.flatMap(({ via, to }) => (via ? [{ id, via, to }] : [])),
  );
  for (let n = 0; n < 4; n++) {
    const device = random.pick(
      now.devices.filter(({ role, routes }) => role === "router" && routes.length > 0),
    );
    const route = random.pick(device.routes);
    const own = vias.filter(({ id, to }) => id === device.id && to.includes(":") === route.to.includes(":"));
    const after: (StaticRoute | null)[] = [
      null,
      { ...route, metric: 50 + n },
      {
        to: route.to,
        metric: route.metric,
        via: own.length > 0 ? random.pick(own).via : undefined,
        discard: own.length > 0 ? undefined : "drop",
      },
    ];
    const change = {
      in: "device",
      device: device.id,
      collection: "routes",
      before: route,
      after: random.pick(after),
    } as Change;
    const outcome = applyEdit(now, { label: "draft", changes: [change] });
    if (outcome.ok) now = outcome.plan;
  }
  return now;
}

function runbookFor(before: Plan, after: Plan): TextedRunbook | null {
  const outcome = runbookOf(NetworkModel.compile(before), NetworkModel.compile(after));
  return outcome && withTexts(before, after, outcome.runbook);
}

async function inLab(plan: Plan, name: string, work: (lab: Lab) => Promise<void> | void) {
  const lab = new Lab(bare(plan), `it${process.pid % 10000}${name}`);
  try {
    lab.build();
    configure(lab, plan);
    await work(lab);
  } finally {
    lab.remove();
  }
}

/** Pings without a pause, from a namespace; ends with which answers came. */
function pinging(lab: Lab, from: string, source: string, to: string) {
  const child = spawn("ip", [
    "netns",
    "exec",
    lab.namespace(from),
    "ping",
    "-n",
    "-i",
    "0.01",
    "-I",
    source,
    to,
  ]);
  let out = "";
  child.stdout.on("data", (chunk) => {
    out += chunk;
  });
  const ended = new Promise<void>((resolve) => child.on("exit", () => resolve()));
  return {
    answered: () => (out.match(/bytes from/g) ?? []).length,
    async end(): Promise<{ sent: number; received: number }> {
      child.kill("SIGINT");
      await ended;
      const [, sent, received] = /(\d+) packets transmitted, (\d+) received/.exec(out) ?? [];
      return { sent: Number(sent), received: Number(received) };
    },
  };
}

const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Two offices with two lines between them, and a change that takes the traffic from one line to the other. */
function offices(far: "x" | "y"): Plan {
  const router = (id: string, own: number, other: number): Partial<Device> & object => ({
    id,
    role: "router",
    profile: "metric-router",
    interfaces: [
      { name: "lan", addresses: [`10.1.${own}.1/24`] },
      { name: "x", addresses: [`192.0.2.${own}/30`] },
      { name: "y", addresses: [`192.0.2.${own + 4}/30`] },
    ],
    routes:
      far === "x"
        ? [{ to: `10.1.${other}.0/24`, via: `192.0.2.${other}`, metric: 10 }]
        : [
            { to: `10.1.${other}.0/24`, via: `192.0.2.${other + 4}`, metric: 10 },
            { to: `10.1.${other}.0/24`, via: `192.0.2.${other}`, metric: 20 },
          ],
  });
  const host = (id: string, lan: number) => ({
    id,
    role: "host",
    interfaces: [{ name: "e", addresses: [`10.1.${lan}.9/24`] }],
    routes: [{ to: "0.0.0.0/0", via: `10.1.${lan}.1` }],
  });
  return planOf({
    devices: [router("a", 1, 2), router("b", 2, 1), host("ha", 1), host("hb", 2)],
    links: [
      { id: "la", ends: ["a/lan", "ha/e"] },
      { id: "lb", ends: ["b/lan", "hb/e"] },
      { id: "x", ends: ["a/x", "b/x"] },
      { id: "y", ends: ["a/y", "b/y"] },
    ],
    flows: [{ id: "across", from: "ha", to: "10.1.2.9" }],
  });
}

/** Flows that work before and after and that the runbook tells no break of, as they can be pinged: one for each pair of hosts. */
function unbroken(before: Plan, after: Plan, runbook: TextedRunbook) {
  const told = new Set(runbook.visits.flatMap(({ breaks }) => breaks.map(({ flow }) => flow)));
  const [old, now] = [before, after].map((plan) => NetworkModel.compile(plan));
  const kept = [...old.trips()].flatMap(([id, trip]) => {
    const works = trip?.verdict === "works" && now.trips().get(id)?.verdict === "works";
    return works && !told.has(id) ? [id] : [];
  });
  return old.flows().flatMap(({ flow, question }) => {
    const source = before.devices
      .find(({ id }) => id === flow.from)
      ?.interfaces[0]?.addresses[0]?.split("/")[0];
    return kept.includes(flow.id) && source
      ? [{ from: flow.from, source, to: formatAddress(question.destination) }]
      : [];
  });
}

/** A router of both families with a policy table by interface. */
function bothFamilies(): Plan {
  return planOf({
    devices: [
      {
        id: "r",
        role: "router",
        profile: "metric-router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24", "2001:db8:1::1/64"] },
          { name: "up", addresses: ["192.0.2.1/30", "2001:db8:9::1/64"] },
        ],
        routes: [
          { to: "0.0.0.0/0", via: "192.0.2.2" },
          { to: "::/0", via: "2001:db8:9::2", metric: 10 },
          { to: "::/0", via: "2001:db8:9::3", metric: 10 },
          { to: "2001:db8:7::/48", discard: "drop", metric: 1 },
        ],
        policyTables: [
          {
            name: "guests",
            match: { in: ["lan"] },
            lookup: "first",
            routes: [
              { to: "0.0.0.0/0", via: "192.0.2.2" },
              { to: "::/0", via: "2001:db8:9::2", metric: 1 },
            ],
          },
        ],
      },
      {
        id: "s",
        role: "router",
        interfaces: [{ name: "e", addresses: ["192.0.2.2/30", "2001:db8:9::2/64"] }],
      },
      { id: "h", role: "host", interfaces: [{ name: "e", addresses: ["10.1.0.9/24"] }] },
    ],
    links: [
      { id: "up", ends: ["r/up", "s/e"] },
      { id: "lan", ends: ["r/lan", "h/e"] },
    ],
  });
}

describe.runIf(able)("the iproute2 files of a device, on a kernel", () => {
  it("are taken whole by ip -batch, both families, without a line that is refused", async () => {
    const plan = bothFamilies();
    await inLab(bare(plan), "w", async (lab) => {
      const files = iproute2Files(plan, [plan.devices[0]]);
      expect(files.map(({ name }) => name)).toEqual(["r.batch", "r.ipv6.batch"]);
      for (const { name, text } of files) {
        const lines = text.split("\n").filter((line) => /^(route|rule) /.test(line));
        batch(lab.namespace("r"), lines, name.includes("ipv6") ? 6 : undefined);
      }
      const told = held(lab, "r").join("\n");
      expect(told).toMatch(/default metric 10|default proto static metric 10/);
      expect(told).toContain("blackhole 2001:db8:7::/48");
      expect(told.match(/from all iif lan lookup/g)).toHaveLength(2);
    });
  });
});

describe.runIf(able)("the iproute2 texts of a change, on kernels", () => {
  it("lose no packet of a flow that the runbook does not tell of, forth and back", async () => {
    const [before, after] = [offices("x"), offices("y")];
    const runbook = runbookFor(before, after) as TextedRunbook;
    expect(runbook.safe).toBe(true);
    await inLab(before, "p", async (lab) => {
      const ping = pinging(lab, "ha", "10.1.1.9", "10.1.2.9");
      while (ping.answered() < 10) await rest(20);
      const steps = runbook.visits.flatMap(({ device, steps }) =>
        steps.map((step) => ({ device: device as string, step })),
      );
      const take = async (device: string, text: string | null) => {
        for (const line of (text ?? "").trim().split("\n")) expect(apply(lab, device, line), line).toBe(true);
        await rest(60);
      };
      for (const { device, step } of steps) await take(device, step.texts.iproute2.text);
      expect(lab.lookups("a", ["10.1.2.9"]).get("10.1.2.9")?.out).toBe("y");
      for (const { device, step } of steps.toReversed()) await take(device, step.undoTexts.iproute2.text);
      expect(lab.lookups("a", ["10.1.2.9"]).get("10.1.2.9")?.out).toBe("x");
      const { sent, received } = await ping.end();
      expect(sent).toBeGreaterThan(40);
      expect(sent - received).toBe(0);
    });
  }, 60_000);

  let pinged = 0;
  it.each(Array.from({ length: 8 }, (_, n) => n + 1))(
    "of random draft %i lose no packets that is not told, leave each kernel as the whole new plan makes it, and taken back as the old one does",
    async (seed) => {
      const random = new Random(seed * 131);
      const before = kernelPlan(seed + 100);
      const after = drafted(before, random);
      const runbook = runbookFor(before, after);
      if (!runbook?.visits.length) throw new Error("nothing to order");
      const names = before.devices.map(({ id }) => id);
      let wanted: string[][] = [];
      let old: string[][] = [];
      await inLab(after, `w${seed}`, (lab) => {
        wanted = names.map((id) => held(lab, id));
      });
      await inLab(before, `o${seed}`, async (lab) => {
        old = names.map((id) => held(lab, id));
        const all = runbook.visits.flatMap(({ device, steps }) =>
          steps.map((step) => ({ device: device as string, step })),
        );
        const take = (device: string, text: string | null) => {
          for (const line of (text ?? "").trim().split("\n").filter(Boolean)) apply(lab, device, line);
        };
        const pings = unbroken(before, after, runbook).map(({ from, source, to }) =>
          pinging(lab, from, source, to),
        );
        for (const ping of pings) while (ping.answered() < 3) await rest(20);
        for (const { device, step } of all) {
          take(device, step.texts.iproute2.text);
          await rest(50);
        }
        for (const ping of pings) {
          const { sent, received } = await ping.end();
          expect(sent - received).toBe(0);
        }
        pinged += pings.length;
        expect(names.map((id) => held(lab, id))).toEqual(wanted);
        for (const { device, step } of all.toReversed()) take(device, step.undoTexts.iproute2.text);
        expect(names.map((id) => held(lab, id))).toEqual(old);
      });
    },
    60_000,
  );

  it("some of which had flows that were pinged all the while", () => expect(pinged).toBeGreaterThan(3));
});
