import type { Finding } from "../core/findings/index.ts";
import { describeRoute, type StaticRoute } from "../core/plan/index.ts";
import type {
  DifferenceReport,
  FlowOutcomeReport,
  OutcomeReport,
  PathReport,
  RouteReport,
  SummaryReport,
  SweepReport,
  TableReport,
  TimelineReport,
  WayReport,
} from "../core/reports/index.ts";
import { boundsText } from "../core/words/index.ts";

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

function failedText(failed: readonly string[]): string {
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
  const symmetric = report.symmetric === null ? "" : report.symmetric ? ", symmetric" : ", asymmetric";
  const parts = [
    `${report.verdict}${report.carriers.length ? `, carried by ${report.carriers.join(", ")}` : ""}${symmetric}`,
    "out",
    printWay(report.outbound),
  ];
  if (report.flaps)
    parts.unshift("watches keep flapping under these failures; the worst of the alternating states is shown");
  if (report.reply) parts.push("back", printWay(report.reply));
  if (report.paths) parts.push(`${report.paths.length} paths; the worst is shown`);
  return parts.join("\n");
}

/** Bounds as text; "0 s" for none. */
function rangeText(range: Parameters<typeof boundsText>[0]): string {
  return boundsText(range) || "0 s";
}

export function printSweep(report: SweepReport): string {
  return report.flows
    .map((flow) => {
      const rows = flow.failures.map((failure) => [
        `  ${failure.failed.join(" + ")}`,
        failure.verdict,
        failure.carriers.join(", "),
        rangeText(failure.outageMs),
      ]);
      const nominal = `${flow.id}: ${flow.nominal.verdict} ${flow.nominal.carriers.join(", ")}`.trimEnd();
      return rows.length ? `${nominal}\n${columns(rows)}` : nominal;
    })
    .join("\n");
}

export function printTimeline(report: TimelineReport): string {
  const events = report.events.map((event) => [`${event.atMs / 1000} s`, event.what]);
  const flows = report.flows.map((flow) => [
    flow.id,
    `down for ${rangeText(flow.outageMs)}`,
    flow.lost.max === null ? "" : `${flow.lost.min} to ${flow.lost.max} packets lost`,
  ]);
  return [columns(events), columns(flows)].filter((part) => part !== "").join("\n\n");
}

export function printSummary(report: SummaryReport): string {
  const lines = [`exactly: ${report.exact.join(", ")}`];
  const { single } = report;
  if (!single) return [...lines, "one prefix cannot cover both address families"].join("\n");
  lines.push(`in one: ${single.prefix}`);
  if (single.swallows.length) lines.push(`which covers ${single.swallows.join(", ")}`);
  for (const entry of single.elsewhere ?? [])
    lines.push(`  ${entry.prefix} belongs to ${entry.by.join(", ")}`);
  if (single.unowned?.length) lines.push(`  no owner: ${single.unowned.join(", ")}`);
  return lines.join("\n");
}

export function printFindings(findings: readonly Finding[]): string {
  if (findings.length === 0) return "no findings";
  return findings
    .map((finding) => {
      const fixes = finding.fixes.map((fix) => `\n    fixed by: ${fix.label}`);
      const aside = finding.dismissed ? `\n    accepted: ${finding.dismissed}` : "";
      return `${finding.severity} ${finding.code}: ${finding.text}${aside}${fixes.join("")}`;
    })
    .join("\n");
}

export function printDifference(report: DifferenceReport): string {
  const { added, removed, changed } = report.routes;
  const route = (sign: string, entry: { device: string; route: StaticRoute }) =>
    `${sign} ${entry.device}: ${describeRoute(entry.route)}`;
  const outcome = (o: OutcomeReport) => `${o.result} at ${o.at}${o.code ? ` (${o.code})` : ""}`;
  const flow = (o: FlowOutcomeReport | null) =>
    o ? `${o.verdict}${o.carriers.length ? ` by ${o.carriers.join(", ")}` : ""}` : "not there";
  const lines = [
    ...added.map((entry) => route("+", entry)),
    ...removed.map((entry) => route("-", entry)),
    ...changed.map((entry) => `~ ${entry.device}: ${describeRoute(entry.after)}`),
    ...report.ranges.map((r) => `${r.range} from ${r.from}: ${outcome(r.before)}, now ${outcome(r.after)}`),
    ...report.flows.map((f) => `flow ${f.id}: ${flow(f.before)}, now ${flow(f.after)}`),
  ];
  return lines.length ? lines.join("\n") : "no differences";
}
