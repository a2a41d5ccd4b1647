import { formatPrefix, parsePrefix } from "../address/index.ts";
import type { Change, StaticRoute } from "../plan/index.ts";
import { candidatesIn, routeReport } from "../reports/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { type FlowResult, flowResult } from "./flow-result.ts";

/** What a table must say for a destination: the routes in use, each by its next hop or its manner. */
export interface TableCheck {
  readonly kind: "table";
  readonly device: string;
  readonly vrf: string;
  readonly to: string;
  readonly inUse: readonly string[];
}

/** What must become of a flow. */
export interface FlowCheck extends FlowResult {
  readonly kind: "flow";
  readonly flow: string;
}

export type Check = TableCheck | FlowCheck;

/** The lines of a device's tables that some changes are of, as they are in a scenario. */
export function tableChecks(
  { world, network }: Scenario,
  device: string,
  changes: readonly Change[],
): TableCheck[] {
  const index = network.deviceIndex.get(device);
  if (index === undefined) return [];
  const lines = new Map<string, TableCheck>();
  for (const { vrf, to } of changes.flatMap(linesOf)) {
    const table = network.devices[index].vrfs.indexOf(vrf);
    const inUse =
      table < 0
        ? []
        : candidatesIn(world, index, table)
            .map((c) => routeReport(world, c))
            .filter((route) => route.to === to && route.state === "in-use")
            .map(mannerOf);
    lines.set(`${vrf} ${to}`, { kind: "table", device, vrf, to, inUse });
  }
  return [...lines.values()];
}

/** What a route does, as checks tell it: "via 192.0.2.1 out wan1", "discard drop". */
export function mannerOf({
  via,
  out,
  discard,
  toVrf,
  source,
}: Pick<ReturnType<typeof routeReport>, "via" | "out" | "source" | "discard" | "toVrf">): string {
  if (discard) return `discard ${discard}`;
  if (toVrf) return `to VRF ${toVrf}`;
  return [via && `via ${via}`, out && `out ${out}`, source === "static" ? "" : source]
    .filter(Boolean)
    .join(" ");
}

/** The destinations that a change of a device's own routes is of. */
function linesOf(change: Change): { vrf: string; to: string }[] {
  if (change.in !== "device" || (change.collection !== "routes" && change.collection !== "learned"))
    return [];
  const routes = [change.before, change.after].filter((route): route is StaticRoute => Boolean(route));
  return routes.flatMap(({ to, vrf = "main" }) => {
    const prefix = parsePrefix(to);
    return prefix ? [{ vrf, to: formatPrefix(prefix) }] : [];
  });
}

/** The flows with different results in two scenarios, with their result in the first. */
export function flowChecks(now: Scenario, than: Scenario): FlowCheck[] {
  const old = new Map(flowStates(than).map((check) => [check.flow, check]));
  return flowStates(now).filter((check) => {
    const was = old.get(check.flow);
    return was?.verdict !== check.verdict || was.carriers.join() !== check.carriers.join();
  });
}

function flowStates(scenario: Scenario): FlowCheck[] {
  return scenario
    .flows()
    .map(({ flow, question }) => ({ kind: "flow", flow: flow.id, ...flowResult(scenario, question) }));
}
