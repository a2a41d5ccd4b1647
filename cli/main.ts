import { Command, CommanderError, InvalidArgumentError, Option } from "commander";
import { findAll, type Severity, severities } from "../core/findings/index.ts";
import { askFrom, worstTrip } from "../core/forwarding/index.ts";
import { type Step, settle, worldsOf } from "../core/outage/index.ts";
import { formatPlanError } from "../core/plan/index.ts";
import {
  countPlan,
  differenceReport,
  lookupReport,
  pathReport,
  summaryReport,
  sweepReport,
  tableReport,
  timelineReport,
} from "../core/reports/index.ts";
import type { Scenario } from "../core/scenario/index.ts";
import { addressOf, deviceOf, elementsOf, PlanFiles, prefixOf, UnusableInput, vrfOf } from "./input.ts";
import {
  columns,
  printDifference,
  printFindings,
  printPath,
  printRoutes,
  printSummary,
  printSweep,
  printTable,
  printTimeline,
} from "./print.ts";

export interface Output {
  out(text: string): void;
  error(text: string): void;
}

/** Runs the command line on arguments without the program's name; the exit code is returned. */
export function run(args: readonly string[], output: Output, plans = new PlanFiles()): number {
  let exit = 0;
  const program = new Command("iron-fork")
    .description("Answers questions about a network plan, from its file.")
    .exitOverride()
    .configureOutput({
      writeOut: (text) => output.out(text.trimEnd()),
      writeErr: (text) => output.error(text.trimEnd()),
    });

  const say = (json: boolean | undefined, value: unknown, text: () => string) =>
    output.out(json ? JSON.stringify(value, null, 2) : text());
  const command = (name: string, description: string) =>
    program
      .command(name)
      .description(description)
      .option("--json", "print one JSON document and nothing else")
      .exitOverride();
  const collect = (value: string, list: string[]) => [...list, value];
  const failOption = () =>
    new Option("--fail <element>", "an element that is down, such as link:ID").argParser(collect).default([]);

  command("check", "reads the document and tells its errors or what it holds")
    .argument("<plan>")
    .action((path: string, options: { json?: boolean }) => {
      const reading = plans.reading(path);
      if (!reading.ok) {
        for (const error of reading.errors) output.error(`${path}: ${formatPlanError(error)}`);
        if (options.json) say(true, { ok: false, errors: reading.errors }, () => "");
        exit = 2;
        return;
      }
      const counts = countPlan(reading.plan);
      say(options.json, { ok: true, name: reading.plan.name, counts }, () =>
        columns([
          [`${reading.plan.name} is sound`],
          ...Object.entries(counts).map(([what, n]) => [`  ${what}`, String(n)]),
        ]),
      );
    });

  command("table", "every route of a device with its state and reason")
    .argument("<plan>")
    .requiredOption("--device <id>")
    .option("--vrf <name>", "the VRF", "main")
    .addOption(failOption())
    .action((path: string, options: { json?: boolean; device: string; vrf: string; fail: string[] }) => {
      const engine = plans.engine(path);
      const device = deviceOf(engine, options.device);
      const { world } = settle(engine, elementsOf(engine, options.fail));
      const report = tableReport(world, device, vrfOf(engine, device, options.vrf));
      say(options.json, report, () => printTable(report));
    });

  command("lookup", "the routes of a device that match an address, longest first")
    .argument("<plan>")
    .requiredOption("--device <id>")
    .requiredOption("--to <address>")
    .option("--vrf <name>", "the VRF", "main")
    .addOption(failOption())
    .action(
      (
        path: string,
        options: { json?: boolean; device: string; to: string; vrf: string; fail: string[] },
      ) => {
        const engine = plans.engine(path);
        const device = deviceOf(engine, options.device);
        const { world } = settle(engine, elementsOf(engine, options.fail));
        const report = lookupReport(world, device, vrfOf(engine, device, options.vrf), addressOf(options.to));
        say(options.json, report, () => printRoutes(report.matches));
      },
    );

  command("path", "the way of a packet and the way of its reply")
    .argument("<plan>")
    .requiredOption("--from <device>", "a device, or device/interface")
    .option("--source <address>", "one of the sender's addresses")
    .requiredOption("--to <address>", "an address, or a device")
    .addOption(new Option("--protocol <name>").choices(["icmp", "tcp", "udp"]))
    .option("--port <n>", "destination port", portNumber)
    .addOption(failOption())
    .action((path: string, options: PathOptions) => {
      const engine = plans.engine(path);
      if (options.port !== undefined && (options.protocol ?? "icmp") === "icmp") {
        throw new UnusableInput("--port needs --protocol tcp or udp");
      }
      const asked = askFrom(engine.network, options);
      if (!asked.ok) throw new UnusableInput(asked.message);
      const settled = settle(engine, elementsOf(engine, options.fail));
      const { world, trip } = worstTrip(worldsOf(settled), asked.question);
      const report = pathReport(world, engine.gateways, trip);
      if (settled.flapping.length) report.flaps = true;
      say(options.json, report, () => printPath(report));
    });

  command("sweep", "what becomes of every flow when things fail")
    .argument("<plan>")
    .addOption(new Option("--depth <n>", "how many fail at once").choices(["1", "2", "3"]).default("1"))
    .action((path: string, options: { json?: boolean; depth: "1" | "2" | "3" }) => {
      const engine = plans.engine(path);
      const depth = Number(options.depth) as 1 | 2 | 3;
      const report = sweepReport(engine, engine.gateways, depth);
      say(options.json, report, () => printSweep(report));
    });

  command("timeline", "an outage in time: who carries when, and for how long nothing does")
    .argument("<plan>")
    .option("--outage <id>", "an outage of the plan")
    .addOption(failOption())
    .option("--restore-after <ms>", "when what failed heals, in milliseconds", milliseconds)
    .action((path: string, options: TimelineOptions) => {
      const model = plans.model(path);
      const report = timelineReport(model.engine, model.gateways, outageSteps(model, options));
      say(options.json, report, () => printTimeline(report));
    });

  command("findings", "what is wrong or could be better, and what would fix it")
    .argument("<plan>")
    .addOption(
      new Option("--fail-on <severity>", "exit with 1 from this severity on")
        .choices(severities)
        .default("error"),
    )
    .action((path: string, options: { json?: boolean; failOn: Severity }) => {
      const findings = findAll(plans.model(path));
      say(options.json, findings, () => printFindings(findings));
      const grave = severities.slice(0, severities.indexOf(options.failOn) + 1);
      const open = findings.filter((finding) => !finding.dismissed);
      if (open.some((finding) => grave.includes(finding.severity))) exit = 1;
    });

  command("diff", "what differs between two plans: routes, ranges of addresses, flows")
    .argument("<old>")
    .argument("<new>")
    .action((old: string, now: string, options: { json?: boolean }) => {
      const report = differenceReport(plans.engine(old), plans.engine(now));
      say(options.json, report, () => printDifference(report));
    });

  command("summarise", "prefixes written shorter, and what that would cover")
    .argument("<prefix...>")
    .option("--plan <plan>", "tells what is owned there")
    .action((texts: string[], options: { json?: boolean; plan?: string }) => {
      const plan = options.plan === undefined ? undefined : plans.plan(options.plan);
      const report = summaryReport(texts.map(prefixOf), plan);
      say(options.json, report, () => printSummary(report));
    });

  // Read by its own loop, before commands are parsed (batch.ts); listed here for the help.
  program
    .command("batch")
    .description("reads commands from standard input, a JSON array of arguments a line");

  try {
    program.parse(args, { from: "user" });
    return exit;
  } catch (error) {
    if (error instanceof UnusableInput) {
      output.error(error.message);
      return 2;
    }
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    throw error;
  }
}

interface TimelineOptions {
  json?: boolean;
  outage?: string;
  fail: string[];
  restoreAfter?: number;
}

function outageSteps(model: Scenario, options: TimelineOptions): Step[] {
  const { engine } = model;
  if (options.outage !== undefined) {
    if (options.fail.length) throw new UnusableInput("give --outage or --fail, not both");
    const { outages } = engine.network.plan;
    const outage = outages.find((o) => o.id === options.outage);
    const known = outages.map((o) => o.id).join(", ") || "none";
    if (!outage) throw new UnusableInput(`there is no outage ${options.outage}; the plan has ${known}`);
    return model.stepsOf(outage.steps);
  }
  if (options.fail.length === 0) throw new UnusableInput("say what happens: --outage ID, or --fail REF");
  const elements = elementsOf(engine, options.fail);
  const steps: Step[] = [{ atMs: 0, fail: elements, restore: [] }];
  if (options.restoreAfter !== undefined)
    steps.push({ atMs: options.restoreAfter, fail: [], restore: elements });
  return steps;
}

function milliseconds(text: string): number {
  const ms = Number(text);
  if (!Number.isInteger(ms) || ms < 0) throw new InvalidArgumentError("whole milliseconds");
  return ms;
}

interface PathOptions {
  json?: boolean;
  from: string;
  source?: string;
  to: string;
  protocol?: "icmp" | "tcp" | "udp";
  port?: number;
  fail: string[];
}

function portNumber(text: string): number {
  const port = Number(text);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new InvalidArgumentError("a port is 1 to 65535");
  return port;
}
