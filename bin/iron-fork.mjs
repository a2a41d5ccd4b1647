#!/usr/bin/env node
import { register } from "tsx/esm/api";

register();
const { run } = await import("../cli/main.ts");
const print = (stream) => (text) => stream.write(`${text}\n`);
process.exitCode = run(process.argv.slice(2), { out: print(process.stdout), error: print(process.stderr) });
