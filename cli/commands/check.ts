import { formatPlanError } from "../../core/plan/index.ts";
import { countPlan } from "../../core/reports/index.ts";
import type { CommandLine } from "../command-line.ts";
import { type Format, formatOption, printedAs } from "../pipelines/format.ts";
import { checkReport } from "../pipelines/report.ts";
import { columns } from "../print.ts";

export function checkCommand(cli: CommandLine) {
  cli
    .command("check", "checks the document and reports its errors or a summary")
    .argument("<plan>")
    .addOption(formatOption())
    .action((path: string, options: Format) => {
      const reading = cli.plans.reading(path);
      const told = printedAs(cli, options, () => checkReport(path, reading.ok ? [] : reading.errors));
      if (!reading.ok) {
        for (const error of reading.errors) cli.output.error(`${path}: ${formatPlanError(error)}`);
        if (options.json) cli.say(options, { ok: false, errors: reading.errors }, () => "");
        cli.exit = 2;
        return;
      }
      if (told) return;
      const counts = countPlan(reading.plan);
      cli.say(options, { ok: true, name: reading.plan.name, counts }, () =>
        columns([
          [`${reading.plan.name} is valid`],
          ...Object.entries(counts).map(([what, n]) => [`  ${what}`, String(n)]),
        ]),
      );
    });
}
