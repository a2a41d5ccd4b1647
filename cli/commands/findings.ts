import { Option } from "commander";
import { findAll, type Severity, severities } from "../../core/findings/index.ts";
import type { CommandLine, Json } from "../command-line.ts";
import { printFindings } from "../print.ts";

export function findingsCommand(cli: CommandLine) {
  cli
    .command("findings", "what is wrong or could be better, and what would fix it")
    .argument("<plan>")
    .addOption(
      new Option("--fail-on <severity>", "exit with 1 from this severity on")
        .choices(severities)
        .default("error"),
    )
    .action((path: string, options: Json & { failOn: Severity }) => {
      const findings = findAll(cli.plans.model(path));
      cli.say(options, findings, () => printFindings(findings));
      const grave = severities.slice(0, severities.indexOf(options.failOn) + 1);
      const open = findings.filter((finding) => !finding.dismissed);
      if (open.some((finding) => grave.includes(finding.severity))) cli.exit = 1;
    });
}
