import { lookupReport, prefixLookupReport, tableReport } from "../../core/reports/index.ts";
import { type CommandLine, failOption, type Json } from "../command-line.ts";
import { addressOf, deviceOf, prefixOf, underFailures, vrfOf } from "../input.ts";
import { printRoutes, printTable } from "../print.ts";

interface DeviceOptions extends Json {
  device: string;
  vrf: string;
  fail: string[];
}

export function tableCommand(cli: CommandLine) {
  deviceCommand(cli, "table", "lists every route of a device with its state and reason").action(
    (path: string, options: DeviceOptions) => {
      const { world, device, vrf } = asked(cli, path, options);
      const report = tableReport(world, device, vrf);
      cli.say(options, report, () => printTable(report));
    },
  );
}

export function lookupCommand(cli: CommandLine) {
  deviceCommand(
    cli,
    "lookup",
    "lists the routes of a device that match an address or a whole prefix, longest first",
  )
    .requiredOption("--to <address>", "an address, or a prefix")
    .action((path: string, options: DeviceOptions & { to: string }) => {
      const { world, device, vrf } = asked(cli, path, options);
      const prefix = options.to.includes("/") ? prefixOf(options.to) : null;
      if (!prefix) {
        const report = lookupReport(world, device, vrf, addressOf(options.to));
        return cli.say(options, report, () => printRoutes(report.matches));
      }
      const report = prefixLookupReport(world, device, vrf, prefix);
      return cli.say(options, report, () => {
        const heading = `Inside ${report.to}${report.split ? ", parts go different ways" : ""}:`;
        const inside = report.inside.length > 0 ? ["", heading, printRoutes(report.inside)] : [];
        return [printRoutes(report.matches), ...inside].join("\n");
      });
    });
}

function deviceCommand(cli: CommandLine, name: string, description: string) {
  return cli
    .command(name, description)
    .argument("<plan>")
    .requiredOption("--device <id>")
    .option("--vrf <name>", "the VRF", "main")
    .addOption(failOption());
}

function asked(cli: CommandLine, path: string, options: DeviceOptions) {
  const model = cli.plans.model(path);
  const device = deviceOf(model, options.device);
  const { world } = underFailures(model, options.fail);
  return { world, device, vrf: vrfOf(model, device, options.vrf) };
}
