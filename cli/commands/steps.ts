import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Option } from "commander";
import { type Preference, preferences, runbookOf } from "../../core/steps/index.ts";
import { writePlanText } from "../../exchange/plan-text.ts";
import { withTexts } from "../../exchange/texts/index.ts";
import type { CommandLine } from "../command-line.ts";
import { UnusableInput } from "../input.ts";
import { type Format, formatOption, printedAs } from "../pipelines/format.ts";
import { stepsReport } from "../pipelines/report.ts";
import { printRunbook } from "../print-runbook.ts";

interface Options extends Format {
  plans?: string;
  prefer: Preference;
}

export function stepsCommand(cli: CommandLine) {
  cli
    .command("steps", "safe rollout order from one plan to another, with checks and disruptions")
    .argument("<old>")
    .argument("<new>")
    .option("--plans <folder>", "write the plan after each visit: 01.json, 02.json, …")
    .addOption(
      new Option(
        "--prefer <goal>",
        "among safe orders: the fewest visits, or the least traffic moved to another path",
      )
        .choices(preferences)
        .default("visits"),
    )
    .addOption(formatOption())
    .action((old: string, now: string, options: Options) => {
      const outcome = runbookOf(cli.plans.model(old), cli.plans.model(now), options.prefer);
      if (!outcome)
        throw new UnusableInput(
          "the steps between the two plans cannot be done one at a time: every order that was tried leads to a plan with missing references",
        );
      const { plans } = outcome;
      const runbook = withTexts(cli.plans.plan(old), cli.plans.plan(now), outcome.runbook);
      if (options.plans !== undefined)
        writePlans(
          options.plans,
          plans.map((plan) => writePlanText(plan, "json")),
        );
      if (!printedAs(cli, options, () => stepsReport(now, cli.plans.plan(now), runbook)))
        cli.say(options, runbook, () => printRunbook(runbook));
      if (!runbook.safe) cli.exit = 1;
    });
}

function writePlans(folder: string, texts: readonly string[]) {
  try {
    mkdirSync(folder, { recursive: true });
    for (const [n, text] of texts.entries()) {
      writeFileSync(join(folder, `${String(n + 1).padStart(2, "0")}.json`), text);
    }
  } catch (error) {
    throw new UnusableInput(`the plans cannot be written to ${folder}: ${(error as Error).message}`);
  }
}
