import type { Watch } from "../../../core/plan/index.ts";
import type { TimelineAnswer } from "../../queries/asks.ts";
import type { Frame } from "../../queries/frame.ts";
import { shieldLetter } from "../../ui/shield.tsx";
import { type Segment, segmentsOf } from "./segments.ts";
import { signsOf } from "./signs.ts";
import type { ObservedFlow } from "./use-observed.ts";

/** A stretch of time in the drawing: of a row, from when to when in milliseconds. */
export interface Bar {
  x: string;
  y: [number, number];
  fillColor: string;
  /** Its description. */
  name: string;
  /** Its label if it fits: a gateway's letter, or the flow's result. */
  sign: string;
  /** Whether its colour is a light one in light colours, and a dark one in dark colours. */
  isLight?: boolean;
}

interface Drawn {
  report: TimelineAnswer;
  frame: Frame;
  endMs: number;
  watches?: ReadonlyMap<string, Watch>;
  seen?: ObservedFlow | null;
  /** A colour of the page by the name of its token. */
  colour: (token: string) => string;
  /** What a watch is called, by "device/id". */
  watchName: (watch: string) => string;
}

/** Rows of flows, and of watches, beyond which a drawing takes longer to make than to read. */
const MAX_ROWS = 30;

/** The drawn part of an outage: the flows with the longest downtime, in report order and including a requested one, and
 * the watches that change first; plus the number of those left out. */
export function drawnOf(report: TimelineAnswer, asked = ""): { report: TimelineAnswer; left: number } {
  const left = [report.flows, report.watches].reduce((n, list) => n + Math.max(0, list.length - MAX_ROWS), 0);
  if (left === 0) return { report, left };
  const down = ({ outageMs }: TimelineAnswer["flows"][number]) => outageMs.max ?? Number.POSITIVE_INFINITY;
  const inOrder = [...report.flows].sort(
    (a, b) => Number(b.id === asked) - Number(a.id === asked) || compare(down(b), down(a)),
  );
  const longest = new Set(inOrder.slice(0, MAX_ROWS));
  const flows = report.flows.filter((flow) => longest.has(flow));
  return { report: { ...report, flows, watches: report.watches.slice(0, MAX_ROWS) }, left };
}

function compare(a: number, b: number): number {
  return a === b ? 0 : a - b;
}

/** Every bar of an outage's drawing: one row per flow, observations of a capture, and the watches with their packets.
 * */
export function barsOf({ report, frame, endMs, watches, seen, colour, watchName }: Drawn): Bar[] {
  const label = (id: string) => frame.flows.find((flow) => flow.id === id)?.label ?? id;
  const bars = report.flows.flatMap((flow) => [
    ...segmentsOf(flow, endMs).map((segment) => barOf(label(flow.id), segment, frame, colour)),
    ...(seen?.flow === flow.id
      ? seenSegments(seen, endMs).map((segment) => barOf("as captured", segment, frame, colour))
      : []),
  ]);
  for (const { watch, changes } of report.watches) {
    for (const [i, { fromMs, up }] of changes.entries()) {
      if (fromMs >= endMs) break;
      bars.push({
        x: watchName(watch),
        y: [fromMs, Math.min(endMs, changes[i + 1]?.fromMs ?? endMs)],
        fillColor: up ? colour("--ink-3") : colour("--stop"),
        name: up ? "up" : "down",
        sign: up ? "up" : "down",
      });
    }
    for (const { fromMs, toMs, kind } of signsOf(watches?.get(watch), changes, report.failsAtMs, endMs))
      bars.push({
        x: `sent by ${watchName(watch)}`,
        y: [fromMs, toMs],
        fillColor: colour(sent[kind].token),
        name: sent[kind].text,
        sign: "",
      });
  }
  return bars;
}

const sent = {
  answered: { text: "probe sent, reply received", token: "--shield-3" },
  missed: { text: "probe sent, no reply", token: "--stop" },
  silent: { text: "no packet received", token: "--stop-soft" },
};

/** What a capture shows from the failure on, as far as the drawing reaches. */
function seenSegments({ observed }: ObservedFlow, endMs: number): Segment[] {
  return observed.spans
    .filter((span) => span.toMs > 0 && span.fromMs < endMs)
    .map(({ fromMs, toMs, answered, gateway }) => ({
      fromMs: Math.max(0, fromMs),
      toMs: Math.min(endMs, toMs),
      carrier: gateway,
      state: answered ? "works" : "lost",
    }));
}

/** How many shields' colours there are. */
const SHIELDS = 6;

function barOf(x: string, segment: Segment, frame: Frame, colour: (token: string) => string): Bar {
  const { fromMs, toMs, state, carrier } = segment;
  const y: [number, number] = [fromMs, toMs];
  const g = frame.gateways.findIndex((gateway) => gateway.id === carrier);
  if (state === "lost") return { x, y, fillColor: colour("--stop"), name: "no gateway", sign: "lost" };
  if (state === "perhaps")
    return {
      x,
      y,
      fillColor: colour("--stop-soft"),
      name: "no gateway, at most",
      sign: "at most",
      isLight: true,
    };
  if (g < 0) return { x, y, fillColor: colour("--iron"), name: "works", sign: "works" };
  const fillColor = colour(`--shield-${(g % SHIELDS) + 1}`);
  return { x, y, fillColor, name: frame.gateways[g].label, sign: shieldLetter(g) };
}
