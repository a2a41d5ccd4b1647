import type { ApexOptions } from "apexcharts";
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import type { Watch } from "../../../core/plan/index.ts";
import { boundsText, secondsText } from "../../../core/words/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { lostText } from "./lost.ts";
import { scaleOf } from "./segments.ts";
import { type Bar, barsOf, drawnOf } from "./time-bars.ts";
import type { ObservedFlow } from "./use-observed.ts";

/** It needs a browser, so it is fetched once there is one. */
const Chart = lazy(async () => {
  const { default: found } = await import("react-apexcharts");
  // The package is CommonJS: bundled, its component lies one step deeper.
  return { default: (found as unknown as { default?: typeof found }).default ?? found };
});

interface TimeChartProps {
  report: TimelineAnswer;
  /** The plan's watches by "device/watch", to show single probes. */
  watches?: ReadonlyMap<string, Watch>;
  /** Where the scale ends; where the outage itself does, unless given. */
  endMs?: number;
  healMs: number | null;
  height?: number;
  /** A moment that is marked. */
  cursorMs?: number | null;
  /** Observations of a flow from a capture: a separate row below the flow's. */
  seen?: ObservedFlow | null;
}

/** One row per flow, colored and labeled by its gateway over time; watches below. The outage per flow is listed below
 * as text. */
export function TimeChart(props: TimeChartProps) {
  const { report, watches, healMs, height, cursorMs, seen, endMs: wanted } = props;
  const { frame, labels } = usePlan();
  const box = useRef<HTMLDivElement>(null);
  const [pointed, setPointed] = useState("");
  const [colour, setColour] = useState<((token: string) => string) | null>(null);
  const { stepMs, endMs } = useMemo(() => scaleOf(report, healMs, wanted), [report, healMs, wanted]);
  const { report: shown, left } = useMemo(() => drawnOf(report, seen?.flow), [report, seen]);
  useEffect(() => {
    if (!box.current) return;
    const tokens = getComputedStyle(box.current);
    setColour(() => (token: string) => tokens.getPropertyValue(token).trim());
  }, []);
  const drawn = useMemo(() => {
    if (!colour) return null;
    const watchName = (watch: string) => {
      const slash = watch.indexOf("/");
      return `watch ${watch.slice(slash + 1)} of ${labels.devices.get(watch.slice(0, slash)) ?? watch.slice(0, slash)}`;
    };
    const bars = barsOf({ report: shown, frame, endMs, watches, seen, colour, watchName });
    const rows = new Set(bars.map((bar) => bar.x)).size;
    const at = { endMs, stepMs, healMs, cursorMs: cursorMs ?? null };
    return { bars, height: height ?? 90 + 26 * rows, options: optionsOf(bars, at, colour, setPointed) };
  }, [colour, labels, shown, frame, endMs, stepMs, watches, seen, height, healMs, cursorMs]);
  // A plan without flows has no drawing; its events are listed below.
  if (drawn?.bars.length === 0)
    return <p className="text-ink-2">No flows are defined, so no outage is shown. The events are below.</p>;
  return (
    <>
      <div ref={box} aria-hidden="true" style={{ minHeight: drawn?.height }}>
        {drawn && (
          <Suspense fallback={null}>
            <Chart
              // Another outage is drawn anew: to turn one drawing into another takes far longer.
              key={`${drawn.bars.length} ${endMs}`}
              type="rangeBar"
              height={drawn.height}
              options={drawn.options}
              series={[{ data: drawn.bars }]}
            />
          </Suspense>
        )}
      </div>
      <p aria-hidden="true" className="h-5 text-[13px] text-ink-2">
        {pointed}
      </p>
      {(left > 0 || report.flapping) && (
        <p className="text-[13px] text-ink-2">
          {report.flapping && `The chart shows the first ${secondsText(endMs)} s. `}
          {left > 0 && `The chart shows the flows with the longest outages; ${left} more are listed as text.`}
        </p>
      )}
      <HowLong report={report} />
    </>
  );
}

interface Scale {
  endMs: number;
  stepMs: number;
  healMs: number | null;
  cursorMs: number | null;
}

/** The chart, as its library takes it: data, longer than a screen because there is that much to say. */
function optionsOf(
  bars: readonly Bar[],
  { endMs, stepMs, healMs, cursorMs }: Scale,
  colour: (token: string) => string,
  onPoint: (text: string) => void,
): ApexOptions {
  const style = { background: colour("--panel"), color: colour("--ink") };
  // A flag stands to the right of its line, clear of the rows' names.
  const flag = (text: string) => ({
    text,
    style,
    orientation: "horizontal",
    textAnchor: "start",
    offsetX: 3,
  });
  // Uncertain segments are light and have dark text.
  const inkOf = ({ dataPointIndex }: { dataPointIndex: number }) =>
    colour(bars[dataPointIndex]?.isLight ? "--ink" : "--shield-ink");
  return {
    chart: {
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: false },
      fontFamily: "inherit",
      foreColor: colour("--ink-2"),
      events: {
        dataPointMouseEnter: (_event: unknown, _chart: unknown, at: { dataPointIndex: number }) => {
          const bar = bars[at.dataPointIndex];
          if (bar) onPoint(`${bar.x}: ${bar.name}, ${secondsText(bar.y[0])} to ${secondsText(bar.y[1])} s`);
        },
        dataPointMouseLeave: () => onPoint(""),
      },
    },
    plotOptions: { bar: { horizontal: true, barHeight: "72%", rangeBarGroupRows: true } },
    dataLabels: {
      enabled: true,
      formatter: (_value, { dataPointIndex }: { dataPointIndex: number }) => {
        const bar = bars[dataPointIndex];
        // Only where the sign fits: a letter in a fiftieth of the width, a word in a twelfth.
        const share = (bar.y[1] - bar.y[0]) / endMs;
        return share > (bar.sign.length > 1 ? 1 / 12 : 1 / 50) ? bar.sign : "";
      },
      style: { fontSize: "12px", fontWeight: 600, colors: [inkOf] },
    },
    legend: { show: false },
    grid: { borderColor: colour("--rule"), xaxis: { lines: { show: true } } },
    xaxis: {
      type: "numeric",
      min: 0,
      max: endMs,
      tickAmount: Math.round(endMs / stepMs),
      labels: { formatter: (value: string) => `${secondsText(Number(value))} s` },
    },
    yaxis: { labels: { maxWidth: 260 } },
    // The chart's own tooltip would inject HTML text; a bar is described in our own line instead.
    tooltip: { enabled: false },
    annotations: {
      xaxis: [
        { x: 0, borderColor: colour("--stop"), label: flag("fails") },
        ...(healMs === null ? [] : [{ x: healMs, borderColor: colour("--ink"), label: flag("recovers") }]),
        ...(cursorMs === null ? [] : [{ x: cursorMs, borderColor: colour("--ink"), strokeDashArray: 0 }]),
      ],
    },
  };
}

/** Outage per flow each flow is down; those that lose nothing in one line together. */
function HowLong({ report }: { report: TimelineAnswer }) {
  const { labels } = usePlan();
  const label = (id: string) => labels.flows.get(id) ?? id;
  const told = report.flows.map((flow) => ({ flow, text: silenceText(flow, report.flapping) }));
  const hit = told.filter(({ flow, text }) => text !== NOTHING_LOST || staysWith(report, flow) !== null);
  const whole = told.filter((entry) => !hit.includes(entry));
  return (
    <ul aria-label="Outage per flow" className="text-[13px]">
      {hit.map(({ flow, text }) => (
        <li key={flow.id} data-gap={flow.id}>
          <span className="font-medium">{label(flow.id)}:</span> {text}
          <Stays report={report} flow={flow} />
        </li>
      ))}
      {whole.length > 0 && (
        <li className="text-ink-2" data-whole={whole.map(({ flow }) => flow.id).join(" ")}>
          No packet is lost: {whole.map(({ flow }) => label(flow.id)).join("; ")}
        </li>
      )}
    </ul>
  );
}

const NOTHING_LOST = "no packet is lost";

type FlowSpans = TimelineAnswer["flows"][number];

function silenceText({ outageMs, lost, spans }: FlowSpans, flapping: boolean): string {
  if (flapping && spans.length > 3) return "keeps alternating between working and failing";
  if (outageMs.max === null && outageMs.min === null) return "down and does not recover";
  const gap = boundsText(outageMs);
  return gap ? `down for ${gap}, ${lostText(lost)} lost` : NOTHING_LOST;
}

/** The gateway that a flow uses after all failures are restored, if it does not return to its original one
 * automatically. */
function staysWith(report: TimelineAnswer, flow: FlowSpans): { first: string; stays: string } | null {
  const last = flow.spans.at(-1);
  const first = report.before[flow.id]?.[0];
  const stays = last?.carriers[0];
  if (!report.heals || last?.verdict !== "works" || !first || !stays || stays === first) return null;
  return { first, stays };
}

/** That it does not come back, in words. */
function Stays({ report, flow }: { report: TimelineAnswer; flow: FlowSpans }) {
  const { labels } = usePlan();
  const found = staysWith(report, flow);
  if (!found) return null;
  const name = (gateway: string) => labels.gateways.get(gateway) ?? gateway;
  return (
    <span className="text-stop">
      . It stays on {name(found.stays)} and does not return to {name(found.first)} automatically
    </span>
  );
}
