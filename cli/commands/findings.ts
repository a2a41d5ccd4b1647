import { Option } from "commander";
import { checks, findAll, type Severity, severities } from "../../core/findings/index.ts";
import type { CommandLine } from "../command-line.ts";
import { type Format, formatOption, printedAs } from "../pipelines/format.ts";
import { findingsReport } from "../pipelines/report.ts";
import { printFindings } from "../print.ts";

export function findingsCommand(cli: CommandLine) {
  cli
    .command("findings", "lists problems and their fixes")
    .argument("<plan>")
    .addOption(
      new Option("--fail-on <severity>", "exit with 1 if a finding has at least this severity")
        .choices(severities)
        .default("error"),
    )
    .addOption(formatOption())
    .action((path: string, options: Format & { failOn: Severity }) => {
      // A pipeline takes no fixes.
      const findings = findAll(cli.plans.model(path), { fixes: options.format === undefined });
      const grave = severities.slice(0, severities.indexOf(options.failOn) + 1);
      const rules = checks.map(({ code, title }) => ({ id: code, title }));
      if (!printedAs(cli, options, () => findingsReport(path, cli.plans.plan(path), findings, rules, grave)))
        cli.say(options, findings, () => printFindings(findings));
      const open = findings.filter((finding) => !finding.dismissed);
      if (open.some((finding) => grave.includes(finding.severity))) cli.exit = 1;
    });
}
