import { memo } from "react";
import { Link } from "react-router";
import type { Finding, FindingChanges } from "../../../core/findings/index.ts";
import type { FlowChange, FlowStanding, RangeGroup } from "../../../core/impact/index.ts";
import type { EffectShown } from "../../queries/asks.ts";
import { deviceHref, pageHref } from "../../search/links.ts";
import { Shield } from "../../ui/shield.tsx";
import { LinkedSentence } from "../linked-sentence.tsx";
import { usePlan } from "../open-plan.tsx";
import { elementLabel } from "../sentence-parts.ts";
import { RouteOutcomeLines } from "./route-outcome-lines.tsx";

interface EffectViewProps {
  effect: EffectShown;
  findings?: FindingChanges | null;
  /** Findings are still being looked for. */
  looking?: boolean;
}

/** What an edit does before it is taken: its routes, the flows, the ranges, the findings. Drawn anew only for a new answer. */
export const ImpactView = memo(function ImpactView({ effect, findings, looking }: EffectViewProps) {
  const { labels } = usePlan();
  const { routes, flows, ranges, rangesLeftOut, wholeSpace, later } = effect;
  const idle = flows.length === 0 && ranges.length === 0 && wholeSpace;
  return (
    <div className="space-y-2" data-testid="effect">
      {routes.slice(0, 6).map((route) => (
        <RouteOutcomeLines
          key={`${route.device} ${route.table} ${route.report.to} ${route.report.via} ${route.report.out}`}
          route={route}
        />
      ))}
      {routes.length > 6 && <p className="text-ink-2">and {routes.length - 6} more routes</p>}
      {idle && (
        <p data-testid="no-change">
          No flows or address ranges are affected{later ? " without failures" : ""}.
        </p>
      )}
      {flows.length > 0 && <FlowChanges title="Flows" flows={flows} />}
      {later && later.flows.length > 0 && (
        <FlowChanges title={`If ${elementLabel(later.failed, labels)} fails`} flows={later.flows} />
      )}
      {later && later.flows.length === 0 && (
        <p>If {elementLabel(later.failed, labels)} fails, no flows are affected either.</p>
      )}
      {(ranges.length > 0 || !wholeSpace) && (
        <Ranges ranges={ranges} leftOut={rangesLeftOut} whole={wholeSpace} />
      )}
      {looking && <p className="text-ink-2">Checking findings …</p>}
      {findings && <FindingChangeList changes={findings} />}
    </div>
  );
});

function FlowChanges({ title, flows }: { title: string; flows: FlowChange[] }) {
  const { planId, params } = usePlan();
  return (
    <section aria-label={title}>
      <h3 className="font-semibold text-[13px] text-ink-2">
        {title}: {flows.length} {flows.length === 1 ? "changes" : "change"}
      </h3>
      <ul>
        {flows.slice(0, 12).map((flow) => (
          <li key={flow.id} className="flex flex-wrap items-center gap-x-2" data-flow={flow.id}>
            {flow.after ? (
              <Link
                className="name-link font-medium"
                to={pageHref(planId, "paths", params, { flow: flow.id })}
              >
                {flow.label}
              </Link>
            ) : (
              <span className="font-medium">{flow.label}</span>
            )}
            {!flow.before && <span>new</span>}
            {!flow.after && <span>removed</span>}
            {flow.before && <FlowResult scenario={flow.before} />}
            {flow.before && flow.after && (
              <>
                <span aria-hidden="true">→</span>
                <span className="sr-only">becomes</span>
              </>
            )}
            {flow.after && <FlowResult scenario={flow.after} strong />}
          </li>
        ))}
      </ul>
      {flows.length > 12 && <p className="text-ink-2">and {flows.length - 12} more</p>}
    </section>
  );
}

const verdictWords = {
  works: "works",
  "one-way": "no return path",
  fails: "does not arrive",
  unknown: "not modeled",
};

/** A flow's result: its carriers' shields, or the failure as text. */
export function FlowResult({ scenario, strong }: { scenario: FlowStanding; strong?: boolean }) {
  const { frame } = usePlan();
  const { verdict, carriers, because } = scenario;
  if (verdict !== "works") {
    return (
      <span className={`text-stop ${strong ? "font-semibold" : ""}`}>
        {verdictWords[verdict]}
        {because && (
          <>
            : <LinkedSentence text={because} />
          </>
        )}
      </span>
    );
  }
  return (
    <span className={`flex items-center gap-1 ${strong ? "font-semibold" : ""}`}>
      {carriers.map((id) => {
        const at = frame.gateways.findIndex((gateway) => gateway.id === id);
        return at >= 0 ? (
          <Shield key={id} gateway={at} label={frame.gateways[at].label} size={18} />
        ) : (
          <span key={id} className="addr">
            {id}
          </span>
        );
      })}
      works
    </span>
  );
}

function outcomeText({ result, at, code, way }: RangeGroup["before"]): string {
  if (result === "delivered") return way.length > 1 ? `reaches ${at}` : `is ${at} itself`;
  if (result === "looped") return "loops";
  return `${code?.replaceAll("-", " ") ?? "dropped"} at ${at}`;
}

function Ranges({ ranges, leftOut, whole }: { ranges: RangeGroup[]; leftOut: number; whole: boolean }) {
  const { planId, params } = usePlan();
  const count = ranges.length + leftOut;
  return (
    <section aria-label="Addresses">
      <h3 className="font-semibold text-[13px] text-ink-2">
        Addresses: {count} {count === 1 ? "range changes" : "ranges change"}
        {whole ? "" : "; the preview is incomplete"}
      </h3>
      <table className="w-full max-w-4xl text-left text-[13px]">
        <tbody>
          {ranges.map((range) => {
            const [was, now] = [outcomeText(range.before), outcomeText(range.after)];
            const by = range.after.way.slice(1, -1).join(", ");
            return (
              <tr key={`${range.within} ${range.from.join()} ${was} ${now} ${by}`} className="align-top">
                <td className="addr pr-3">
                  <Link
                    to={deviceHref(planId, range.from[0], params, { lookup: range.within.split("/")[0] })}
                  >
                    {range.within}
                  </Link>
                  {range.parts > 1 ? ` in ${range.parts} parts` : ""}
                </td>
                <td className="pr-3 text-ink-2">
                  from {range.from.slice(0, 2).join(", ")}
                  {range.from.length > 2 ? ` and ${range.from.length - 2} more` : ""}
                </td>
                <td className="pr-2 text-ink-2">{was}</td>
                <td className="font-medium">
                  <span aria-hidden="true">→ </span>
                  {now}
                  {was === now && by ? `, by ${by}` : ""}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {leftOut > 0 && <p className="text-ink-2">and {leftOut} more</p>}
    </section>
  );
}

/** Lines of each kind that are shown. */
const MAX_FINDINGS = 5;

function FindingChangeList({ changes }: { changes: FindingChanges }) {
  const kinds = [
    { title: "Fixed", findings: changes.go, bad: false },
    { title: "New finding", findings: changes.appear, bad: true },
    { title: "Worse than before", findings: changes.worse, bad: true },
    { title: "Still there, but otherwise", findings: changes.changed, bad: false },
  ];
  if (kinds.every(({ findings }) => findings.length === 0)) {
    return <p className="text-ink-2">No finding comes, goes or changes.</p>;
  }
  const line = (finding: Finding, title: string, bad: boolean) => (
    <li key={`${finding.code} ${finding.device} ${finding.subject}`}>
      <span className={bad ? "font-semibold text-stop" : "font-semibold"}>{title}: </span>
      <LinkedSentence text={finding.text} />
    </li>
  );
  return (
    <ul aria-label="Findings that come, go and change">
      {kinds.flatMap(({ title, findings, bad }) => [
        ...findings.slice(0, MAX_FINDINGS).map((finding) => line(finding, title, bad)),
        ...(findings.length > MAX_FINDINGS
          ? [
              <li key={title} className="text-ink-2">
                and {findings.length - MAX_FINDINGS} more
              </li>,
            ]
          : []),
      ])}
    </ul>
  );
}
