import { Command, CommanderError } from "commander";
import { CommandLine, type Output } from "./command-line.ts";
import { checkCommand } from "./commands/check.ts";
import { diffCommand, summariseCommand } from "./commands/compare.ts";
import { driftCommand, readCommand, writeCommand } from "./commands/exchange.ts";
import { findingsCommand } from "./commands/findings.ts";
import { sweepCommand, timelineCommand } from "./commands/outages.ts";
import { pathCommand } from "./commands/path.ts";
import { stepsCommand } from "./commands/steps.ts";
import { lookupCommand, tableCommand } from "./commands/tables.ts";
import { PlanFiles, UnusableInput } from "./input.ts";

const commands = [
  checkCommand,
  tableCommand,
  lookupCommand,
  pathCommand,
  sweepCommand,
  timelineCommand,
  findingsCommand,
  diffCommand,
  summariseCommand,
  stepsCommand,
  readCommand,
  writeCommand,
  driftCommand,
];

/** Runs the command line on arguments without the program's name; the exit code is returned. */
export function run(args: readonly string[], output: Output, plans = new PlanFiles()): number {
  const program = new Command("iron-fork")
    .description("Plans routes and predicts failover from a plan file.")
    .exitOverride()
    .configureOutput({
      writeOut: (text) => output.out(text.trimEnd()),
      writeErr: (text) => output.error(text.trimEnd()),
    });
  const cli = new CommandLine(program, output, plans);
  for (const register of commands) register(cli);
  // Read by its own loop, before commands are parsed (batch.ts); listed here for the help.
  program
    .command("batch")
    .description("reads commands from standard input: one JSON array of arguments per line");

  try {
    program.parse(args, { from: "user" });
    return cli.exit;
  } catch (error) {
    if (error instanceof UnusableInput) {
      output.error(error.message);
      return 2;
    }
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    throw error;
  }
}
