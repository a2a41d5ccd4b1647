import { Option } from "commander";
import type { CommandLine, Json } from "../command-line.ts";
import { UnusableInput } from "../input.ts";
import { junitText } from "./junit.ts";
import type { Report } from "./report.ts";
import { sarifText } from "./sarif.ts";

/** What a command that pipelines run has: the form in which it tells them. */
export interface Format extends Json {
  format?: "sarif" | "junit";
}

/** `--format sarif` or `junit`. */
export function formatOption(): Option {
  return new Option("--format <form>", "output for a pipeline: SARIF 2.1.0 or JUnit XML").choices([
    "sarif",
    "junit",
  ]);
}

/** Prints a report in the requested format; false without one, and the command prints its normal output. */
export function printedAs(cli: CommandLine, { format, json }: Format, report: () => Report): boolean {
  if (format === undefined) return false;
  if (json) throw new UnusableInput("use either --json or --format");
  const told = report();
  cli.output.out(format === "sarif" ? sarifText(told, cli.plans.text(told.file)) : junitText(told));
  return true;
}
