import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { runbookOf } from "../../core/steps/index.ts";
import { writePlanText } from "../../exchange/plan-text.ts";
import { withTexts } from "../../exchange/texts/index.ts";
import type { CommandLine } from "../command-line.ts";
import { UnusableInput } from "../input.ts";
import { type Format, formatOption, toldAs } from "../pipelines/format.ts";
import { stepsReport } from "../pipelines/report.ts";
import { printRunbook } from "../print-runbook.ts";

interface Options extends Format {
  plans?: string;
}

export function stepsCommand(cli: CommandLine) {
  cli
    .command(
      "steps",
      "the safest order of the steps from one plan to another, with what to look at and what may be lost",
    )
    .argument("<old>")
    .argument("<new>")
    .option("--plans <folder>", "write the plan as it stands after each visit: 01.json, 02.json, …")
    .addOption(formatOption())
    .action((old: string, now: string, options: Options) => {
      const outcome = runbookOf(cli.plans.model(old), cli.plans.model(now));
      if (!outcome)
        throw new UnusableInput(
          "the steps from the one plan to the other cannot be done one at a time: each order that was tried comes to a plan that names what is not there",
        );
      const { plans } = outcome;
      const runbook = withTexts(cli.plans.plan(old), cli.plans.plan(now), outcome.runbook);
      if (options.plans !== undefined)
        writePlans(
          options.plans,
          plans.map((plan) => writePlanText(plan, "json")),
        );
      if (!toldAs(cli, options, () => stepsReport(now, cli.plans.plan(now), runbook)))
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
