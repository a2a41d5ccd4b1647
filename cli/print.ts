import type { PathReport, RouteReport, TableReport, WayReport } from "../core/reports/index.ts";

/** Columns of text, each as wide as its widest cell. */
export function columns(rows: readonly (readonly string[])[]): string {
  const widths: number[] = [];
  for (const row of rows) {
    for (const [i, cell] of row.entries()) widths[i] = Math.max(widths[i] ?? 0, cell.length);
  }
  return rows
    .map((row) =>
      row
        .map((cell, i) => cell.padEnd(widths[i]))
        .join("  ")
        .trimEnd(),
    )
    .join("\n");
}

function routeRow(route: RouteReport): string[] {
  const action = route.discard ?? (route.toVrf ? `to VRF ${route.toVrf}` : (route.via ?? "straight"));
  return [
    route.to,
    route.state,
    route.source,
    action,
    route.out ?? "",
    route.distance === null ? "" : String(route.distance),
    String(route.metric),
    route.reason?.text ?? "",
  ];
}

const heading = ["destination", "state", "from", "next hop", "out", "distance", "metric", "because"];

export function printRoutes(routes: readonly RouteReport[]): string {
  return routes.length ? columns([heading, ...routes.map(routeRow)]) : "no route";
}

export function printTable(report: TableReport): string {
  const parts = [
    `${report.device}, VRF ${report.vrf}${failedText(report.failed)}`,
    printRoutes(report.routes),
  ];
  for (const table of report.policyTables ?? [])
    parts.push(`policy table ${table.name}`, printRoutes(table.routes));
  return parts.join("\n");
}

export function failedText(failed: readonly string[]): string {
  return failed.length ? `, down: ${failed.join(", ")}` : "";
}

function printWay(way: WayReport): string {
  const rows = way.hops.map((hop) => [
    `  ${hop.device}`,
    hop.match ?? "",
    hop.nextHop ? `via ${hop.nextHop}` : "",
    hop.out ? `out ${hop.out}` : "",
  ]);
  const end = way.drop ? `  ${way.drop.code}: ${way.drop.text}` : `  ${way.result}`;
  return `${columns(rows)}\n${end}`;
}

export function printPath(report: PathReport): string {
  const symmetric =
    report.symmetric === null ? "" : report.symmetric ? ", both ways alike" : ", not both ways alike";
  const parts = [
    `${report.verdict}${report.carriers.length ? `, carried by ${report.carriers.join(", ")}` : ""}${symmetric}`,
    "out",
    printWay(report.outbound),
  ];
  if (report.reply) parts.push("back", printWay(report.reply));
  if (report.paths) parts.push(`${report.paths.length} ways in all; the worst is told`);
  return parts.join("\n");
}
