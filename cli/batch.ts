import { z } from "zod";
import { PlanFiles } from "./input.ts";
import { run } from "./main.ts";

/** The answer to one line: the exit code, what the command printed (JSON as such, else text), and its errors. */
export interface BatchAnswer {
  readonly exit: number;
  readonly out: unknown;
  readonly error: string | null;
}

const lineSchema = z.array(z.string());

/**
 * Answers commands, a JSON array of arguments a line, each before the next is read. Plans are read once. A line that
 * is no such array is answered with exit 2, and the next one goes on.
 */
export async function runBatch(lines: AsyncIterable<string>, print: (line: string) => void): Promise<void> {
  const plans = new PlanFiles();
  for await (const line of lines) {
    if (line.trim() !== "") print(JSON.stringify(answerLine(line, plans)));
  }
}

function answerLine(line: string, plans: PlanFiles): BatchAnswer {
  const refused = (error: string): BatchAnswer => ({ exit: 2, out: null, error });
  const args = readLine(line);
  if (!args)
    return refused('a line must be a JSON array of arguments, such as ["check", "plan.yaml", "--json"]');
  if (args[0] === "batch") return refused("a batch cannot contain another batch");
  const printed: string[] = [];
  const errors: string[] = [];
  let exit: number;
  try {
    exit = run(args, { out: (text) => printed.push(text), error: (text) => errors.push(text) }, plans);
  } catch (error) {
    exit = 2;
    errors.push(`this could not be computed: ${error instanceof Error ? error.message : String(error)}`);
  }
  const text = printed.join("\n");
  return {
    exit,
    out: printed.length === 0 ? null : args.includes("--json") ? JSON.parse(text) : text,
    error: errors.length ? errors.join("\n") : null,
  };
}

function readLine(line: string): string[] | null {
  try {
    return lineSchema.safeParse(JSON.parse(line)).data ?? null;
  } catch {
    return null;
  }
}
