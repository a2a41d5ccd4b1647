import { readFileSync } from "node:fs";
import type { AddressInfo } from "node:net";
import { Command, InvalidArgumentError } from "commander";
import { formatPlanError } from "../core/plan/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { readPlanText } from "../exchange/plan-text.ts";
import { datastoreOf } from "./datastore.ts";
import { netconfServer } from "./netconf.ts";
import { restconfServer } from "./restconf.ts";

const port = (text: string) => {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0 || value > 65535)
    throw new InvalidArgumentError("A port is from 0 to 65535.");
  return value;
};

interface Listening {
  listen(port: number, host: string, then: () => void): unknown;
  address(): unknown;
}

interface Options {
  device: string;
  host: string;
  restconf?: number;
  netconf?: number;
  user: string;
  password: string;
  fail: string[];
}

/** Stands in for a device that speaks RESTCONF or NETCONF: answers what the plan says that it would. */
async function startStandIn(file: string, options: Options) {
  const read = readPlanText(readFileSync(file, "utf8"));
  if (!read.ok) throw new Error(`${file}: ${read.errors.map(formatPlanError).join("; ")}`);
  const scenario = NetworkModel.compile(read.plan).under(options.fail);
  const store = datastoreOf(scenario, options.device);
  const login = { user: options.user, password: options.password };
  if (options.restconf === undefined && options.netconf === undefined)
    throw new Error("Say --restconf PORT, --netconf PORT or both.");
  const listen = (server: Listening, port: number, what: string) =>
    server.listen(port, options.host, () => {
      const { port: own } = server.address() as AddressInfo;
      console.log(`${options.device} answers ${what} on ${options.host} ${own}`);
    });
  if (options.restconf !== undefined)
    listen(await restconfServer(() => store, login), options.restconf, "RESTCONF");
  if (options.netconf !== undefined)
    listen(
      netconfServer(() => store, login),
      options.netconf,
      "NETCONF",
    );
}

const program = new Command("stand-in")
  .description("Stands in for a device of a plan that speaks RESTCONF (RFC 8040) or NETCONF (RFC 6241).")
  .argument("<plan>")
  .requiredOption("--device <id>", "which device")
  .option("--restconf <port>", "answer RESTCONF there", port)
  .option("--netconf <port>", "answer NETCONF over SSH there", port)
  .option("--host <address>", "the address to answer on", "127.0.0.1")
  .option("--user <name>", "who may ask", "reader")
  .option("--password <word>", "with which password", "reader")
  .option(
    "--fail <ref>",
    "element that is down; repeatable",
    (ref: string, all: string[]) => [...all, ref],
    [],
  )
  .action(startStandIn);

program.parseAsync().catch((error: unknown) => {
  console.error(error instanceof Error ? error.message : String(error));
  process.exitCode = 2;
});
