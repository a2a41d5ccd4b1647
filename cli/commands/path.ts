import { InvalidArgumentError, Option } from "commander";
import { sessionsOf, steadyPathReport } from "../../core/reports/index.ts";
import { worldsOf } from "../../core/settle/index.ts";
import { askFrom, breakingInAny, walkBothWays } from "../../core/walk/index.ts";
import { type CommandLine, failOption, type Json } from "../command-line.ts";
import { UnusableInput, underFailures } from "../input.ts";
import { printPath } from "../print.ts";

interface PathOptions extends Json {
  from: string;
  source?: string;
  to: string;
  protocol?: "icmp" | "tcp" | "udp";
  port?: number;
  fail: string[];
}

export function pathCommand(cli: CommandLine) {
  cli
    .command("path", "forward path of a packet and return path of its reply")
    .argument("<plan>")
    .requiredOption("--from <device>", "a device, or device/interface")
    .option("--source <address>", "one of the sender's addresses")
    .requiredOption("--to <address>", "an address, or a device")
    .addOption(new Option("--protocol <name>").choices(["icmp", "tcp", "udp"]))
    .option("--port <n>", "destination port", portNumber)
    .addOption(failOption())
    .action((path: string, options: PathOptions) => {
      const model = cli.plans.model(path);
      if (options.port !== undefined && (options.protocol ?? "icmp") === "icmp") {
        throw new UnusableInput("--port needs --protocol tcp or udp");
      }
      const asked = askFrom(model.network, options);
      if (!asked.ok) throw new UnusableInput(asked.message);
      const { settled } = underFailures(model, options.fail);
      const report = steadyPathReport(settled, model.gateways, asked.question);
      const before = walkBothWays(model.world, asked.question);
      if (options.fail.length && report.verdict === "works" && before.verdict === "works")
        Object.assign(
          report,
          sessionsOf(model.network, breakingInAny(before, asked.question, worldsOf(settled)) ?? "kept"),
        );
      cli.say(options, report, () => printPath(report));
    });
}

function portNumber(text: string): number {
  const port = Number(text);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new InvalidArgumentError("a port must be 1 to 65535");
  return port;
}
