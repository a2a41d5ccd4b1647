import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { setTimeout as rest } from "node:timers/promises";
import { formatAddress } from "../../core/address/index.ts";
import type { Outage, Plan } from "../../core/plan/index.ts";
import { type Run, runThrough, type TimelineReport } from "../../core/reports/index.ts";
import { NetworkModel, type Scenario } from "../../core/scenario/index.ts";
import { carriersOfTrip, flowQuestions } from "../../core/walk/index.ts";
import { Lateness, nowMs } from "../agent/clock.ts";
import { ANSWER_MS, KEEPALIVE_MS, type SentPackets } from "../agent/orders.ts";
import { filter, Lab } from "../lab.ts";
import { partOf, wholeOf } from "../parts.ts";
import { batch, run as runProgram } from "../shell.ts";
import { showable } from "../showable.ts";
import { partsOfTunnel } from "../tunnels.ts";
import { AgentProcess } from "./agents.ts";
import { disagreement } from "./compare.ts";
import { observedOf } from "./observed.ts";
import { type AgentSetup, type SentFlow, seatsOf } from "./orders.ts";
import type { Rehearsal, RehearsedFlow } from "./result.ts";
import { stampsOf } from "./stamps.ts";
import { Strikes } from "./strikes.ts";

/** Fewer packets show too little; more would disturb the measurement. */
const MIN_RATE = 20;
const MAX_RATE = 200;
/** Before the first failure and after the last thing that is expected. */
const BEFORE_MS = 1000;
const AFTER_MS = 1500;
/** How long an outage that never settles is observed after its last step. */
const UNREST_MS = 20_000;
/** Whatever a watch needs, and so much besides, until it is found not to settle. */
const PATIENCE_MS = 8000;
/** The exit code of a process that was stopped by request. */
const STOPPED = 130;
/** The number of timers in a chain that may each be late: sending, missing, deciding, observing. */
const LATE_IN_A_CHAIN = 4;

/** What the kernel takes after a port has come up until packets pass: its own work, and a neighbour that is found anew. */
const KERNEL_MS = 40;

export interface RehearsalOptions {
  /** The agent's program, as JavaScript. */
  readonly agent: string;
  /** Begins the names of its namespaces. */
  readonly prefix: string;
  /** The initially failed elements, by reference. */
  readonly down?: readonly string[];
  /** The current activity, as a sentence. */
  readonly progress?: (sentence: string) => void;
}

/** Performs an outage of a plan on this machine's kernel, and compares it with the prediction. */
export async function rehearse(
  plan: Plan,
  steps: Outage["steps"],
  { agent, prefix, down = [], progress = () => {} }: RehearsalOptions,
): Promise<Rehearsal> {
  const model = NetworkModel.compile(plan).under(down);
  const run = runThrough(model.engine, model.gateways, model.stepsOf(steps));
  const { report, flapping } = run;
  const shown = showable(plan);
  const lab = new Lab(shown.plan, prefix, [], shown.tunnels);
  const downThere = shown.refs(down);
  const folder = mkdtempSync(`${tmpdir()}/iron-fork-rehearsal-`);
  const agents: AgentProcess[] = [];
  const strikes = new Strikes(
    shown.plan,
    lab,
    {
      force: (device, watch, down) => agentOf(agents, device)?.say({ say: "force", watch, down }),
      shut: async (device, ports) => agentOf(agents, device)?.shut(ports),
      die: async (device) => agentOf(agents, device)?.die(),
      cut: (end, cut) => {
        const position = lab.tunnels.findIndex((tunnel) => tunnel.end === end);
        if (position < 0) return;
        const { port } = partsOfTunnel(position);
        agentOf(agents, lab.tunnels[position].under)?.say({ say: "cut", port, cut });
      },
    },
    downThere,
  );
  const flows = sentFlows(model, shown.plan);
  const notes: string[] = [];
  const cleanUp = () => {
    lab.remove();
    rmSync(folder, { recursive: true, force: true });
  };
  const stop = () => {
    cleanUp();
    process.exit(STOPPED);
  };
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, stop);
  try {
    progress("Building the network");
    notes.push(...build(lab, model, shown.plan, downThere));
    for (const seat of seatsOf(shown.plan, lab, flows, model.gateways.length, translates(plan))) {
      notes.push(...installPins(lab, seat));
      agents.push(new AgentProcess(lab, seat, agent, folder));
    }
    await Promise.all(agents.map(({ ready }) => ready));
    for (const ref of downThere) strikes.forceWatch(ref, true);
    strikes.cutFrom(downThere);
    progress("Waiting for watches and virtual routers to settle");
    notes.push(...(await settled(model, shown.plan, agents)));
    progress("Sending all flows");
    const late = new Lateness();
    for (const one of agents) one.say({ say: "begin" });
    await rest(BEFORE_MS);
    const startMs = nowMs() + 20;
    progress("Running the outage");
    await strikes.run(stepsThere(steps, shown.refs), startMs);
    await rest(Math.max(0, startMs + lengthOf(report, steps, flapping) - nowMs()));
    for (const one of agents) one.say({ say: "halt" });
    await rest(ANSWER_MS);
    const ends = await Promise.all(agents.map((one) => one.end()));
    const latestMs = Math.max(late.end(), ...ends.map((end) => end.latestMs));
    const firstMs = startMs + firstFailureOf(steps);
    return told(
      model,
      run,
      { flows, packets: ends.flatMap((end) => end.flows), firstMs, agents },
      { leftOut: [...shown.leftOut, ...notes], latestMs, tookMs: strikes.tookMs, waitedMs: waitedFor(lab) },
    );
  } finally {
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.off(signal, stop);
    strikes.end();
    for (const one of agents) one.kill();
    cleanUp();
  }
}

/** The steps, applied to the built network. */
function stepsThere(steps: Outage["steps"], refs: (list: readonly string[]) => string[]): Outage["steps"] {
  return steps.map(({ fail, shut, restore, ...step }) => ({
    ...step,
    ...(fail ? { fail: refs(fail) } : {}),
    ...(shut ? { shut: refs(shut) } : {}),
    ...(restore ? { restore: refs(restore) } : {}),
  }));
}

/** Builds the network with its initial failures, and makes gateways stamp packets; rejected commands are reported. */
function build(lab: Lab, model: Scenario, shown: Plan, down: readonly string[]): string[] {
  lab.build();
  for (const ref of down) if (!ref.startsWith("watch:")) lab.set(ref, false);
  for (const [device, ruleset] of stampsOf(model.network, model.gateways))
    if (shown.devices.some(({ id }) => id === device)) filter(lab.namespace(device), ruleset);
  const { size } = lab.refused;
  return size > 0 ? [`${size} routes: the kernel cannot reach their next hops`] : [];
}

/** Tables and rules for pinned probes; rejected commands are reported. */
function installPins(lab: Lab, { device, pins }: AgentSetup): string[] {
  try {
    for (const family of [4, 6] as const) batch(lab.namespace(device), pins[family], family);
    return [];
  } catch {
    return [`${device}: a path that one of its probes is pinned to`];
  }
}

const agentOf = (agents: readonly AgentProcess[], device: string) =>
  agents.find(({ seat }) => seat.device === device);

/** Whether answers depend on established sessions: then each packet is sent as new, because predictions are for new
 * ones. */
const translates = (plan: Plan) =>
  plan.devices.some(({ sourceNat, policy }) => sourceNat.length > 0 || policy !== undefined);

function firstFailureOf(steps: Outage["steps"]): number {
  const failing = steps.filter(({ fail, shut }) => (fail?.length ?? 0) + (shut?.length ?? 0) > 0);
  return failing.length > 0 ? Math.min(...failing.map(({ atMs }) => atMs)) : 0;
}

/** Until all that is expected has happened, from the start of the steps. */
function lengthOf(report: TimelineReport, steps: Outage["steps"], flapping: boolean): number {
  const lastStep = Math.max(...steps.map(({ atMs }) => atMs));
  if (flapping) return lastStep + UNREST_MS;
  const lastEvent = Math.max(0, ...report.events.map(({ atMs }) => atMs)) + firstFailureOf(steps);
  return Math.max(lastStep, lastEvent) + AFTER_MS;
}

function sentFlows(model: Scenario, shown: Plan): SentFlow[] {
  const { network } = model;
  return flowQuestions(network).flatMap(({ flow, question }): SentFlow[] => {
    const sender = network.devices[question.device];
    const device = partOf(sender.id, sender.vrfs[question.vrf]);
    if (!shown.devices.some(({ id, interfaces }) => id === device && interfaces.length > 0)) return [];
    return [
      {
        id: flow.id,
        number: network.plan.flows.indexOf(flow),
        device,
        source: question.source ? formatAddress(question.source) : null,
        to: formatAddress(question.destination),
        rate: Math.min(MAX_RATE, Math.max(MIN_RATE, flow.rate ?? 1)),
      },
    ];
  });
}

/** Waits until every agent has settled and every watch matches its prediction; reports those that do not. */
async function settled(model: Scenario, plan: Plan, agents: readonly AgentProcess[]): Promise<string[]> {
  const { watchUp } = model.engine.healthy.world.state;
  const expected = model.network.watches.map(({ device, watch, index }) => ({
    device: model.network.devices[device].id,
    watch: watch.id,
    up: watchUp[index] === 1,
  }));
  const open = () => {
    const waiting = agents.filter((one) => !one.settled).map(({ seat }) => seat.device);
    const otherwise = expected.filter(({ device, watch, up }) => {
      // A watch speaks from the VRF that it looks from.
      const said = agents.find(({ seat, up: says }) => wholeOf(seat.device) === device && watch in says);
      return said !== undefined && said.up[watch] !== up;
    });
    return { waiting, otherwise };
  };
  const begin = nowMs();
  const end = begin + longestSettling(plan) + PATIENCE_MS;
  await rest(virtualSettling(plan));
  for (;;) {
    const { waiting, otherwise } = open();
    if (waiting.length === 0 && otherwise.length === 0) return [];
    // Sessions without a partner never settle, and are predicted not to.
    if (nowMs() > end || (otherwise.length === 0 && nowMs() > begin + longestSettling(plan)))
      return otherwise.map(
        ({ device, watch, up }) =>
          `${device}: the watch ${watch} is ${up ? "down" : "up"} before any failure`,
      );
    await rest(50);
  }
}

function longestSettling(plan: Plan): number {
  const times = plan.devices.flatMap(({ watches }) =>
    watches.map((watch) => {
      if (watch.kind === "probe")
        return watch.intervalMs * (Math.max(watch.failAfter, watch.recoverAfter) + 1) + watch.timeoutMs;
      if (watch.kind === "bfd") return 3000 + 2 * Math.max(watch.minTxMs, watch.minRxMs);
      return watch.kind === "group" ? (watch.upDelayMs ?? 0) + (watch.downDelayMs ?? 0) : 0;
    }),
  );
  return Math.max(0, ...times);
}

/** Until the Active one of each group is found: the longest of their down times, and one advertisement. */
function virtualSettling(plan: Plan): number {
  const virtuals = plan.devices.flatMap(({ interfaces }) => interfaces.flatMap((port) => port.virtual ?? []));
  return Math.max(0, ...virtuals.map(({ advertMs, preemptDelayMs }) => 5 * advertMs + preemptDelayMs));
}

interface Measurement {
  readonly flows: readonly SentFlow[];
  readonly packets: readonly SentPackets[];
  readonly firstMs: number;
  readonly agents: readonly AgentProcess[];
}

function told(
  model: Scenario,
  { report, cases }: Run,
  { flows, packets, firstMs, agents }: Measurement,
  {
    leftOut,
    latestMs,
    tookMs,
    waitedMs,
  }: { leftOut: string[]; latestMs: number; tookMs: number; waitedMs: number },
): Rehearsal {
  const allowedMs = Math.ceil(latestMs * LATE_IN_A_CHAIN + tookMs + waitedMs + KERNEL_MS);
  const ids = (carriers: readonly number[]) => carriers.map((g) => model.gateways[g].id);
  const rows = flowQuestions(model.network).map(({ flow, question }): RehearsedFlow => {
    const at = report.flows.findIndex(({ id }) => id === flow.id);
    const predicted = report.flows[at];
    const sent = flows.find(({ id }) => id === flow.id);
    const own = packets.find((one) => one.flow === flow.id);
    if (!sent || !own)
      return { id: flow.id, predicted: predicted.outageMs, observed: null, agrees: null, why: null };
    const seen = observedOf(own, firstMs);
    const stretches = seen.carriers.map(({ gateways, ms }) => ({ carriers: ids(gateways), ms }));
    const carriers = stretches.map((one) => one.carriers);
    const healthy = ids(carriersOfTrip(model.gateways, model.trip(flow.id, question)));
    const allowed = { lateMs: allowedMs, periodMs: 1000 / sent.rate };
    const why = disagreement(predicted, cases[at], healthy, seen, stretches, allowed);
    const scale = (flow.rate ?? 1) / sent.rate;
    return {
      id: flow.id,
      predicted: predicted.outageMs,
      observed: {
        outageMs: seen.works
          ? { min: Math.round(seen.outageMs.min), max: Math.round(seen.outageMs.max) }
          : { min: null, max: null },
        lost: Math.round(seen.lost * scale),
        carriers: {
          before: seen.before ? ids(seen.before) : null,
          during: carriers.slice(seen.before ? 1 : 0, -1),
          after: seen.works ? (carriers.at(-1) ?? null) : null,
        },
      },
      agrees: why === null,
      why,
    };
  });
  return {
    flows: rows,
    agrees: rows.every(({ agrees }) => agrees !== false),
    events: agents
      .flatMap(({ seat, happened }) => happened.map((what) => eventOf(wholeOf(seat.device), what, firstMs)))
      .filter(({ atMs }) => atMs >= 0)
      .sort((a, b) => a.atMs - b.atMs),
    delayMs: Math.ceil(latestMs * 10) / 10,
    tookMs: Math.ceil(tookMs * 10) / 10,
    allowedMs,
    leftOut,
  };
}

/** An unanswered keepalive is predicted to be detected at once; here its timeout must pass first. */
function waitedFor({ tunnels }: Lab): number {
  return Math.max(0, ...tunnels.map(({ keepaliveMs }) => Math.min(keepaliveMs, KEEPALIVE_MS)));
}

function eventOf(device: string, what: AgentProcess["happened"][number], firstMs: number) {
  const atMs = Math.round(what.atMs - firstMs);
  return what.tell === "watch"
    ? { atMs, what: `${device}: the watch ${what.watch} ${what.up ? "comes up" : "goes down"}` }
    : {
        atMs,
        what: `${device}: the virtual router ${what.id} on ${what.port} is ${what.active ? "Active" : "Backup"}`,
      };
}

/** Takes away what rehearsals left that were ended by force: their process is gone. */
export function clearAbandoned() {
  const names = runProgram("ip", ["netns", "list"], true)
    .stdout.split("\n")
    .map((line) => line.split(" ")[0]);
  const running = new Set(readdirSync("/proc"));
  for (const name of names) {
    const pid = /^ifrun-(\d+)-/.exec(name)?.[1];
    if (pid && !running.has(pid)) runProgram("ip", ["netns", "del", name], true);
  }
}

/** The names of a rehearsal's namespaces tell whose it is. */
export const rehearsalPrefix = () => `ifrun-${process.pid}`;
