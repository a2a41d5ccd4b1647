import { mkdirSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { Option } from "commander";
import { formatPlanError, type Plan } from "../../core/plan/index.ts";
import { driftOf } from "../../exchange/drift.ts";
import { countsText, type LineFate } from "../../exchange/facts/index.ts";
import { inputFiles, UnreadableInput } from "../../exchange/input-files.ts";
import { readLayout, type TokenRole, tokenRoleSchema, UnreadableLayout } from "../../exchange/layout.ts";
import { writePlanText } from "../../exchange/plan-text.ts";
import { type Readings, readFiles } from "../../exchange/readings.ts";
import { mergeInto } from "../../exchange/rebuild/merge.ts";
import { type RebuiltPlan, rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { leftOutFate } from "../../exchange/rebuild/valid-parts.ts";
import { formats, writeFiles } from "../../exchange/writers/index.ts";
import type { CommandLine, Json } from "../command-line.ts";
import { readFile, UnusableInput } from "../input.ts";

interface ReadOptions extends Json {
  device?: string;
  word: [string, string][];
  layout: string[];
  role: [string, TokenRole][];
  into?: string;
}

function meaning(text: string, before: [string, string][]): [string, string][] {
  // The word may itself be an equals sign; its meaning never contains one.
  const at = text.lastIndexOf("=");
  if (at < 1 || at === text.length - 1)
    throw new UnusableInput(`--word ${text} is not a code and its meaning, such as --word S=static`);
  return [...before, [text.slice(0, at), text.slice(at + 1)]];
}

function answer(text: string, before: [string, TokenRole][]): [string, TokenRole][] {
  const at = text.lastIndexOf("=");
  const role = tokenRoleSchema.safeParse(text.slice(at + 1));
  if (at < 1 || !role.success)
    throw new UnusableInput(
      `--role ${text} is not a column and its role, such as --role cost=metric; roles: ${tokenRoleSchema.options.join(", ")}`,
    );
  return [...before, [text.slice(0, at), role.data]];
}

const collect = (text: string, before: string[]) => [...before, text];

function reading(
  paths: readonly string[],
  options: Pick<ReadOptions, "device" | "word" | "layout" | "role">,
): Readings {
  try {
    const layouts = options.layout.map((path) => readLayout(readFile(path), path));
    const words = [...layouts.flatMap((layout) => Object.entries(layout.words)), ...options.word] as [
      string,
      string,
    ][];
    return readFiles(inputFiles(paths), {
      device: options.device,
      words,
      layouts,
      roles: new Map(options.role),
    });
  } catch (error) {
    if (error instanceof UnreadableInput || error instanceof UnreadableLayout)
      throw new UnusableInput(error.message);
    throw error;
  }
}

function rebuilt(readings: Readings, name: string): RebuiltPlan {
  const outcome = rebuildPlan(readings, name);
  if (!outcome.ok) throw new UnusableInput(outcome.errors.map(formatPlanError).join("\n"));
  return outcome.rebuilt;
}

function merged(plan: Plan, made: RebuiltPlan): Plan {
  const outcome = mergeInto(plan, made);
  if (!outcome.ok) throw new UnusableInput(outcome.errors.map(formatPlanError).join("\n"));
  return outcome.plan;
}

function readingOptions(cli: CommandLine, name: string, description: string) {
  return cli
    .command(name, description)
    .option("--device <name>", "device that the files belong to, if they do not say")
    .option("--word <word=meaning>", "static, connected, local, inactive, discard or a protocol", meaning, [])
    .option("--layout <file>", "a saved table layout", collect, [])
    .option("--role <column=role>", "answers a question about a column, such as cost=metric", answer, []);
}

export function readCommand(cli: CommandLine) {
  readingOptions(
    cli,
    "read",
    "creates a plan from device output: tables, lists, models; reports the result of every line",
  )
    .argument("<files...>")
    .option("--into <plan>", "plan to update")
    .action((paths: string[], options: ReadOptions) => {
      const readings = reading(paths, options);
      const made = rebuilt(readings, options.device ?? "Imported network");
      const plan = options.into === undefined ? made.plan : merged(cli.plans.plan(options.into), made);
      const report = {
        plan,
        facts: readings.devices.map(({ facts }) => facts),
        devices: made.plan.devices.map(({ id, label, role, profile, outline }) => ({
          id,
          label: label ?? id,
          role,
          profile: profile ?? null,
          outline: outline ?? false,
        })),
        links: made.links,
        outlines: made.outlines,
        lines: [...readings.lines, ...made.leftOut.map(leftOutFate)],
        questions: readings.questions ?? [],
      };
      const told = readings.devices.length + readings.cables.length + (readings.plans?.length ?? 0);
      if (told === 0) cli.exit = 2;
      else if (report.questions.length > 0) cli.exit = 1;
      cli.say(options, report, () => writePlanText(plan, "yaml").trimEnd());
      if (!options.json) for (const line of report.lines) printFate(cli, line);
      if (!options.json) cli.output.error(countsText(report.lines));
      for (const { column, lines, candidates } of options.json ? [] : report.questions)
        cli.output.error(
          `column ${column} on ${lines.length} lines: ${candidates.map(({ role }) => `--role ${column}=${role}`).join(" or ")}`,
        );
      if (!options.json)
        for (const [word, count] of readings.openWords) {
          cli.output.error(
            `unknown code "${word}" on ${count} lines; set its meaning with --word, such as --word ${word}=static`,
          );
        }
    });
}

function printFate(cli: CommandLine, { file, line, fate, detail }: LineFate) {
  if (fate !== "known") cli.output.error(`${file}:${line}: ${fate}: ${detail}`);
}

export function writeCommand(cli: CommandLine) {
  cli
    .command("write", "exports a plan for devices and other tools")
    .argument("<plan>")
    .addOption(
      new Option("--as <format>", "output format").choices(Object.keys(formats)).makeOptionMandatory(),
    )
    .option("--device <id>", "only this device")
    .requiredOption("--to <folder>", "output folder")
    .action((path: string, options: Json & { as: keyof typeof formats; device?: string; to: string }) => {
      const plan = cli.plans.plan(path);
      if (options.device !== undefined && !plan.devices.some(({ id }) => id === options.device)) {
        throw new UnusableInput(`there is no device ${options.device}`);
      }
      const files = writeFiles(plan, options.as, options.device ?? null);
      for (const { name, text } of files) {
        const target = join(options.to, name);
        mkdirSync(dirname(target), { recursive: true });
        writeFileSync(target, text);
      }
      cli.say(options, { files: files.map(({ name }) => name) }, () =>
        files.map(({ name }) => join(options.to, name)).join("\n"),
      );
    });
}

export function driftCommand(cli: CommandLine) {
  readingOptions(
    cli,
    "drift",
    "compares device output with the plan: missing, extra, different; exits with 1 if they differ",
  )
    .argument("<plan>")
    .argument("<facts...>")
    .action((path: string, paths: string[], options: ReadOptions) => {
      const readings = reading(paths, options);
      const [open] = readings.questions ?? [];
      if (open)
        throw new UnusableInput(
          `${open.file}:${open.lines[0]}: is ${open.column} the distance or the metric? Answer with --role ${open.column}=distance or --role ${open.column}=metric`,
        );
      const drift = driftOf(
        cli.plans.model(path),
        readings.devices.map(({ named }) => named),
      );
      cli.say(options, drift, () =>
        drift.differences.length === 0
          ? "No drift: the devices match the plan."
          : drift.differences.map(({ device, text }) => `${device}: ${text}`).join("\n"),
      );
      if (drift.differences.length > 0) cli.exit = 1;
    });
}
