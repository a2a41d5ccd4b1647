import { type Command, Option } from "commander";
import type { PlanFiles } from "./input.ts";

export interface Output {
  out(text: string): void;
  error(text: string): void;
}

/** What every command has: whether one JSON document is printed and nothing else. */
export interface Json {
  json?: boolean;
}

/** The registry of commands, with their context. */
export class CommandLine {
  /** The exit code: 0 answered, 1 a negative result of the command, 2 unusable input. */
  exit = 0;

  constructor(
    readonly program: Command,
    readonly output: Output,
    readonly plans: PlanFiles,
  ) {}

  command(name: string, description: string): Command {
    return this.program
      .command(name)
      .description(description)
      .option("--json", "print one JSON document and nothing else")
      .exitOverride();
  }

  /** Prints an answer: as JSON where that was asked for, else as text. */
  say({ json }: Json, value: unknown, text: () => string) {
    this.output.out(json ? JSON.stringify(value, null, 2) : text());
  }
}

/** `--fail REF`, as often as wanted. */
export function failOption(): Option {
  return new Option("--fail <element>", "a failed element, such as link:ID")
    .argParser((value: string, list: string[]) => [...list, value])
    .default([]);
}
