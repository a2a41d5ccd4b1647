import { createInterface } from "node:readline";
import { runBatch } from "./batch.ts";
import { run } from "./main.ts";

/** The command line as a program. */
const args = process.argv.slice(2);
const print = (stream: NodeJS.WriteStream) => (text: string) => stream.write(`${text}\n`);
// A reader that goes away, such as head, ends the output and nothing else.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code !== "EPIPE") throw error;
  process.exit(0);
});

if (args[0] === "batch" && args.length === 1) {
  void runBatch(
    createInterface({ input: process.stdin, crlfDelay: Number.POSITIVE_INFINITY }),
    print(process.stdout),
  );
} else {
  process.exitCode = run(args, { out: print(process.stdout), error: print(process.stderr) });
}
