import type { Device, Plan, StaticRoute } from "../../core/plan/index.ts";
import type { OutputFile } from "./output-file.ts";

/** The number of a policy table: iproute2 takes numbers where its own list of names has none. */
const FIRST_TABLE = 100;

const isIpv6 = (text: string) => text.includes(":");

function routeLine(route: StaticRoute, where: string): string {
  const family = isIpv6(route.to) ? "-6 " : "";
  const kind = route.discard === "drop" ? "blackhole " : route.discard === "reject" ? "unreachable " : "";
  // What a plan calls a distance, this system has as the metric: the lower goes first.
  const metric = (route.metric ?? 0) || (route.distance ?? 0);
  return [
    `${family}route add ${kind}${route.to}`,
    route.via ? `via ${route.via}` : "",
    route.out ? `dev ${route.out}` : "",
    metric > 0 ? `metric ${metric}` : "",
    route.onLink ? "onlink" : "",
    where,
    "proto static",
  ]
    .filter(Boolean)
    .join(" ");
}

/** A batch for `ip -batch` for each device: addresses, VRFs, routes, rules. What it cannot carry stands in comments. */
export function iproute2Files(_plan: Plan, devices: readonly Device[]): OutputFile[] {
  return devices.map((device) => ({ name: `${device.id}.batch`, text: `${linesOf(device).join("\n")}\n` }));
}

function linesOf(device: Device): string[] {
  const vrfs = [...new Set(device.interfaces.flatMap(({ vrf }) => (vrf && vrf !== "main" ? [vrf] : [])))];
  const tableOf = new Map(vrfs.map((vrf, i) => [vrf, FIRST_TABLE + i]));
  const lines = [`# ${device.label ?? device.id}`];
  for (const [vrf, table] of tableOf)
    lines.push(`link add ${vrf} type vrf table ${table}`, `link set ${vrf} up`);
  for (const { name, vrf, addresses, enabled } of device.interfaces) {
    if (vrf && tableOf.has(vrf)) lines.push(`link set ${name} master ${vrf}`);
    for (const address of addresses)
      lines.push(`${isIpv6(address) ? "-6 " : ""}addr add ${address} dev ${name}`);
    lines.push(`link set ${name} ${enabled === false ? "down" : "up"}`);
  }
  for (const route of device.routes) {
    if (route.enabled === false) continue;
    if (route.toVrf || route.viaFrom) {
      lines.push(
        `# not written: ${route.to} ${route.toVrf ? `in VRF ${route.toVrf}` : `by the gateway of ${route.viaFrom}`}`,
      );
    } else
      lines.push(
        routeLine(route, route.vrf && tableOf.has(route.vrf) ? `table ${tableOf.get(route.vrf)}` : ""),
      );
    if (route.watch)
      lines.push(`# the watch ${route.watch} of ${route.to} is not written: this system has no such thing`);
  }
  for (const [i, table] of device.policyTables.entries()) {
    const number = FIRST_TABLE + tableOf.size + i;
    for (const route of table.routes) lines.push(routeLine(route, `table ${number}`));
    for (const from of table.match.from ?? ["all"]) {
      for (const name of table.match.in ?? [""]) {
        lines.push(
          `${isIpv6(from) ? "-6 " : ""}rule add from ${from}${name ? ` iif ${name}` : ""} lookup ${number} priority ${1000 + i}`,
        );
      }
    }
  }
  return lines;
}
