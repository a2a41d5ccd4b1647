import { InvalidArgumentError, Option } from "commander";
import { sweepReport, timelineReport } from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { Step } from "../../core/timeline/index.ts";
import { type CommandLine, failOption, type Json } from "../command-line.ts";
import { elementsOf, UnusableInput } from "../input.ts";
import { printSweep, printTimeline } from "../print.ts";

export function sweepCommand(cli: CommandLine) {
  cli
    .command("sweep", "result of every flow under each failure")
    .argument("<plan>")
    .addOption(
      new Option("--depth <n>", "number of simultaneous failures").choices(["1", "2", "3"]).default("1"),
    )
    .action((path: string, options: Json & { depth: "1" | "2" | "3" }) => {
      const { engine, gateways } = cli.plans.model(path);
      const report = sweepReport(engine, gateways, Number(options.depth) as 1 | 2 | 3);
      cli.say(options, report, () => printSweep(report));
    });
}

interface TimelineOptions extends Json {
  outage?: string;
  fail: string[];
  restoreAfter?: number;
}

export function timelineCommand(cli: CommandLine) {
  cli
    .command("timeline", "outage timeline: gateways over time and duration of each gap")
    .argument("<plan>")
    .option("--outage <id>", "an outage of the plan")
    .addOption(failOption())
    .option("--restore-after <ms>", "time until restored, in milliseconds", milliseconds)
    .action((path: string, options: TimelineOptions) => {
      const model = cli.plans.model(path);
      const report = timelineReport(model.engine, model.gateways, outageSteps(model, options));
      cli.say(options, report, () => printTimeline(report));
    });
}

function outageSteps(model: Scenario, options: TimelineOptions): Step[] {
  if (options.outage !== undefined) {
    if (options.fail.length) throw new UnusableInput("use either --outage or --fail");
    const { outages } = model.plan;
    const outage = outages.find((o) => o.id === options.outage);
    const known = outages.map((o) => o.id).join(", ") || "none";
    if (!outage) throw new UnusableInput(`there is no outage ${options.outage}; the plan has ${known}`);
    return model.stepsOf(outage.steps);
  }
  if (options.fail.length === 0) throw new UnusableInput("choose the outage: --outage ID or --fail REF");
  const elements = elementsOf(model, options.fail);
  const steps: Step[] = [{ atMs: 0, fail: elements, restore: [] }];
  if (options.restoreAfter !== undefined)
    steps.push({ atMs: options.restoreAfter, fail: [], restore: elements });
  return steps;
}

function milliseconds(text: string): number {
  const ms = Number(text);
  if (!Number.isInteger(ms) || ms < 0) throw new InvalidArgumentError("must be whole milliseconds");
  return ms;
}
