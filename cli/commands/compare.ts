import { differenceReport, summaryReport } from "../../core/reports/index.ts";
import type { CommandLine, Json } from "../command-line.ts";
import { prefixOf } from "../input.ts";
import { printDifference, printSummary } from "../print.ts";

export function diffCommand(cli: CommandLine) {
  cli
    .command("diff", "compares two plans: routes, address ranges, flows")
    .argument("<old>")
    .argument("<new>")
    .action((old: string, now: string, options: Json) => {
      const report = differenceReport(cli.plans.model(old).engine, cli.plans.model(now).engine);
      cli.say(options, report, () => printDifference(report));
    });
}

export function summariseCommand(cli: CommandLine) {
  cli
    .command("summarise", "summarizes prefixes and lists what else the summary would cover")
    .argument("<prefix...>")
    .option("--plan <plan>", "plan that shows which addresses are in use")
    .action((texts: string[], options: Json & { plan?: string }) => {
      const plan = options.plan === undefined ? undefined : cli.plans.plan(options.plan);
      const report = summaryReport(texts.map(prefixOf), plan);
      cli.say(options, report, () => printSummary(report));
    });
}
