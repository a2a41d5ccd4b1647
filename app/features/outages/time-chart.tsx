import { useEffect, useMemo, useRef, useState } from "react";
import type { Watch } from "../../../core/plan/index.ts";
import { boundsText, secondsText } from "../../../core/words/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import type { Frame } from "../../queries/frame.ts";
import { lostText } from "./lost.ts";
import type { Seen } from "./observed.tsx";
import { type Segment, scaleOf, segmentsOf } from "./segments.ts";
import { signsOf } from "./signs.ts";

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
  /** What a capture shows of a flow: a row of its own under the flow's. */
  seen?: Seen | null;
}

interface Bar {
  x: string;
  y: [number, number];
  fillColor: string;
  name: string;
}

/** A row a flow, its time coloured by the gateway that carries; watches beneath. Told in words below the drawing. */
export function TimeChart({
  report,
  watches,
  healMs,
  height,
  cursorMs,
  seen,
  endMs: wanted,
}: TimeChartProps) {
  const { frame } = usePlan();
  const box = useRef<HTMLDivElement>(null);
  const [pointed, setPointed] = useState("");
  const { stepMs, endMs } = useMemo(() => scaleOf(report, healMs, wanted), [report, healMs, wanted]);
  const label = (id: string) => frame.flows.find((flow) => flow.id === id)?.label ?? id;
  const rows = useMemo(
    () => report.flows.map((flow) => ({ flow, segments: segmentsOf(flow, endMs) })),
    [report, endMs],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: the labels follow from the report and the frame.
  useEffect(() => {
    /** Takes the chart away; it must not be while it is still being drawn. */
    let remove: (() => void) | null = null;
    let gone = false;
    const element = box.current;
    if (!element) return;
    const tokens = getComputedStyle(element);
    const colour = (name: string) => tokens.getPropertyValue(name).trim();
    const style = { background: colour("--panel"), color: colour("--ink") };
    const bars = rows.flatMap(({ flow, segments }) => [
      ...segments.map((segment) => barOf(label(flow.id), segment, frame, colour)),
      ...(seen?.flow === flow.id
        ? seenSegments(seen, endMs).map((segment) => barOf("as captured", segment, frame, colour))
        : []),
    ]);
    for (const { watch, changes } of report.watches) {
      for (const [i, change] of changes.entries()) {
        const to = changes[i + 1]?.fromMs ?? endMs;
        bars.push({
          x: `watch ${watch}`,
          y: [change.fromMs, to],
          fillColor: change.up ? colour("--ink-3") : colour("--stop"),
          name: change.up ? "up" : "down",
        });
      }
      for (const { fromMs, toMs, kind } of signsOf(watches?.get(watch), changes, report.failsAtMs, endMs)) {
        bars.push({
          x: `sent by ${watch}`,
          y: [fromMs, toMs],
          fillColor: colour({ answered: "--shield-3", missed: "--stop", silent: "--stop-soft" }[kind]),
          name: {
            answered: "probe sent, answered",
            missed: "probe sent, no answer",
            silent: "nothing heard",
          }[kind],
        });
      }
    }
    import("apexcharts").then(({ default: Apex }) => {
      if (gone) return;
      const holder = element.appendChild(document.createElement("div"));
      const chart = new Apex(holder, {
        chart: {
          type: "rangeBar",
          height: height ?? 90 + 26 * new Set(bars.map((bar) => bar.x)).size,
          animations: { enabled: false },
          toolbar: { show: false },
          zoom: { enabled: false },
          fontFamily: "inherit",
          foreColor: colour("--ink-2"),
          events: {
            dataPointMouseEnter: (_event: unknown, _chart: unknown, at: { dataPointIndex: number }) => {
              const bar = bars[at.dataPointIndex];
              if (bar)
                setPointed(`${bar.x}: ${bar.name}, ${secondsText(bar.y[0])} to ${secondsText(bar.y[1])} s`);
            },
            dataPointMouseLeave: () => setPointed(""),
          },
        },
        plotOptions: { bar: { horizontal: true, barHeight: "72%", rangeBarGroupRows: true } },
        series: [{ data: bars }],
        dataLabels: { enabled: false },
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
        // Its own tooltip would be made of HTML text; what a bar is, is told in a line of ours.
        tooltip: { enabled: false },
        annotations: {
          xaxis: [
            { x: 0, borderColor: colour("--stop"), label: { text: "fails", style } },
            ...(healMs === null
              ? []
              : [{ x: healMs, borderColor: colour("--ink"), label: { text: "recovers", style } }]),
            ...(cursorMs == null ? [] : [{ x: cursorMs, borderColor: colour("--ink"), strokeDashArray: 0 }]),
          ],
        },
      });
      const drawn = chart.render();
      remove = () => {
        holder.hidden = true;
        drawn
          .then(() => chart.destroy())
          .catch(() => {})
          .finally(() => holder.remove());
      };
    });
    return () => {
      gone = true;
      remove?.();
    };
  }, [rows, report, watches, endMs, healMs, height, cursorMs, seen]);
  return (
    <>
      <div ref={box} aria-hidden="true" />
      <p aria-hidden="true" className="h-5 text-[13px] text-ink-2">
        {pointed}
      </p>
      <ul aria-label="How long" className="text-[13px]">
        {report.flows.map((flow) => (
          <li key={flow.id} data-gap={flow.id}>
            <span className="font-medium">{label(flow.id)}:</span> {silenceText(flow, report.flapping)}
            <Stays report={report} flow={flow} />
          </li>
        ))}
      </ul>
    </>
  );
}

/** What a capture shows from the failure on, as far as the drawing reaches. */
function seenSegments({ observed }: Seen, endMs: number): Segment[] {
  return observed.spans
    .filter((span) => span.toMs > 0 && span.fromMs < endMs)
    .map(({ fromMs, toMs, answered, gateway }) => ({
      fromMs: Math.max(0, fromMs),
      toMs: Math.min(endMs, toMs),
      carrier: gateway,
      state: answered ? "works" : "lost",
    }));
}

type FlowSpans = TimelineAnswer["flows"][number];

function silenceText({ outageMs, lost, spans }: FlowSpans, flapping: boolean): string {
  if (flapping && spans.length > 3) return "flaps, working and failing in turn without end";
  if (outageMs.max === null && outageMs.min === null) return "down, and it does not recover";
  const gap = boundsText(outageMs);
  return gap ? `down for ${gap}, ${lostText(lost)} lost` : "no packet is lost";
}

/** Where a flow does not come back to its gateway by itself: that it does not. */
function Stays({ report, flow }: Pick<TimeChartProps, "report"> & { flow: FlowSpans }) {
  const { frame } = usePlan();
  const last = flow.spans.at(-1);
  const first = report.before[flow.id]?.[0];
  const stays = last?.carriers[0];
  if (!report.heals || last?.verdict !== "works" || !first || !stays || stays === first) return null;
  const name = (gateway: string) => frame.gateways.find((entry) => entry.id === gateway)?.label ?? gateway;
  return (
    <span className="text-stop">
      . It stays with {name(stays)} and does not come back to {name(first)} by itself
    </span>
  );
}

function barOf(x: string, segment: Segment, frame: Frame, colour: (name: string) => string): Bar {
  const { fromMs, toMs, state, carrier } = segment;
  const g = frame.gateways.findIndex((gateway) => gateway.id === carrier);
  const fill =
    state === "lost"
      ? colour("--stop")
      : state === "perhaps"
        ? colour("--stop-soft")
        : g >= 0
          ? colour(`--shield-${(g % 6) + 1}`)
          : colour("--iron");
  const name =
    state === "lost"
      ? "nothing carries"
      : state === "perhaps"
        ? "nothing carries, at most"
        : g >= 0
          ? frame.gateways[g].label
          : "works";
  return { x, y: [fromMs, toMs], fillColor: fill, name };
}
