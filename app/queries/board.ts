import { brokenExpectations, counts, endsOfFlow, meetsExpectation } from "../../core/expectations/index.ts";
import type { Outcome, Progress } from "../../core/failures/index.ts";
import { elementCount, formatElement } from "../../core/network/index.ts";
import { OverloadReporter, type SweptFlow, sweepFlows } from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { Range } from "../../core/timeline/index.ts";
import {
  type Arrival,
  type FlowQuestion,
  type Question,
  questionsOf,
  type Verdict,
} from "../../core/walk/index.ts";
import { breakingText } from "../../core/words/index.ts";
import { type Plate, plateOf } from "./conditions.ts";

/** A flow's result in one case. */
export interface BoardCell {
  verdict: Verdict;
  /** Positions of the gateways that carry. */
  carriers: number[];
  /** How it ended where it does not work: a drop code. */
  ended: string | null;
  outageMs: Range;
  /** Of a flow that must be denied: how far its packets get. */
  arrival?: Arrival;
  /** Whether the flow meets its expectation. */
  fine: boolean;
  /** The flow's broken expectations. */
  broken: string[];
  /** Why established sessions break; "" if they survive, or if the flow does not work. */
  sessions: string;
  /** Whether some ways work where others do not, and whether it is known which is taken. */
  partly: boolean;
  uncertain: boolean;
  /** Whether one of the flow's own ends has failed: nothing could help there, and nothing is expected. */
  ownEnd: boolean;
}

export interface BoardRow {
  flow: string;
  label: string;
  /** Where its sender is; "" where the plan does not say. */
  site: string;
  /** The longest gap that is allowed, in milliseconds; null for any. */
  maxOutageMs: number | null;
  nominal: BoardCell;
  /** The smallest sets of failures that break it, its own ends left out, each as element references; the smallest first. */
  breakers: string[][];
}

export interface BoardColumn {
  failed: string[];
  plates: Plate[];
  /** The site where it lies; "" where it lies between sites or nowhere. */
  site: string;
  /** Flows that fail under it, and flows with another result. */
  breaks: number;
  changes: number;
  /** Overloads under it, as sentences (rule 19). */
  crowded: string[];
}

export interface Board {
  rows: BoardRow[];
  /** Failures with an effect, most disruptive first. */
  columns: BoardColumn[];
  /** Row, column and cell of each flow that a failure changes; everywhere else it is as nominal. */
  cells: [number, number, BoardCell][];
  depth: 1 | 2 | 3;
  /** Overloads in the current state. */
  crowded: string[];
  /** Single elements that can fail. */
  elements: number;
}

/** Every flow under every failure that changes something (rule 10.4), to a depth. */
export function sweptBoard(p: Scenario, scenario: Scenario, depth: 1 | 2 | 3, progress?: Progress): Board {
  return boardOf(p, scenario, depth, sweepFlows(scenario.engine, scenario.gateways, depth, progress));
}

/** The board of what a sweep found, here or elsewhere. */
export function boardOf(
  p: Scenario,
  scenario: Scenario,
  depth: 1 | 2 | 3,
  found: readonly SweptFlow[],
): Board {
  const { engine, gateways, network } = scenario;
  const room = new OverloadReporter(engine, gateways, scenario.flows());
  const ids = gateways.map((gateway) => gateway.id);
  const columns = new Map<string, BoardColumn>();
  const cells: [number, string, BoardCell][] = [];
  const flows = new Map(p.plan.flows.map((flow) => [flow.id, flow]));
  const rows = found.flatMap(({ flow: id, swept: { nominal, failures } }, r): BoardRow[] => {
    const flow = flows.get(id);
    const [asked] = flow ? questionsOf(network, [flow]) : [];
    if (!flow || !asked) return [];
    const { question } = asked;
    const breakers: string[][] = [];
    const ends = endsOfFlow(network, question);
    for (const failure of failures) {
      const failed = failure.failed.map((element) => formatElement(network, element));
      const key = failed.join(" ");
      const column = columns.get(key) ?? columnOf(p, failed);
      columns.set(key, column);
      column.changes++;
      if (!meetsExpectation(question, failure, failed.length)) {
        column.breaks++;
        if (meetsExpectation(question, nominal, 0) && counts(network, ends, failure)) breakers.push(failed);
      }
      const ownEnd = !counts(network, ends, failure);
      const { sessions } = failure;
      const breaks = sessions && sessions !== "kept" ? breakingText(network, sessions) : "";
      cells.push([
        r,
        key,
        { ...cellOf(asked, failure, failure.outageMs, failed.length, ownEnd, ids), sessions: breaks },
      ]);
    }
    const row = {
      flow: flow.id,
      label: flow.label ?? flow.id,
      site: siteOf(p, flow.from),
      maxOutageMs: flow.expect?.maxOutageMs ?? null,
      nominal: cellOf(asked, nominal, gapAsItIs(question, nominal), 0, false, ids),
      breakers: breakers.sort((a, b) => a.length - b.length),
    };
    return [row];
  });
  const sorted = [...columns].sort(([, a], [, b]) => b.breaks - a.breaks || b.changes - a.changes);
  const place = new Map(sorted.map(([key], c) => [key, c]));
  return {
    rows,
    columns: sorted.map(([, column]) => ({ ...column, crowded: room.under(column.failed) })),
    cells: cells.map(([r, key, cell]) => [r, place.get(key) as number, cell]),
    depth,
    crowded: room.under([]),
    elements: elementCount(network),
  };
}

/** A flow that does not work in the current state has no finite gap. */
function gapAsItIs(question: Question, nominal: Outcome): Range {
  return meetsExpectation(question, nominal, 0) ? { min: 0, max: 0 } : { min: null, max: null };
}

function cellOf(
  { flow, question }: FlowQuestion,
  outcome: Outcome,
  outageMs: Range,
  failures: number,
  ownEnd: boolean,
  gateways: readonly string[],
): BoardCell {
  const { verdict, carriers, ended, partly, uncertain, arrival } = outcome;
  return {
    verdict,
    ...(arrival ? { arrival } : {}),
    fine: meetsExpectation(question, outcome, failures),
    carriers: [...carriers],
    ended,
    outageMs,
    broken: brokenExpectations(flow, {
      verdict,
      carriers: carriers.map((g) => gateways[g]),
      outageMs,
      failures,
      ownEnd,
      arrival,
    }).map(({ text }) => text),
    sessions: "",
    partly,
    uncertain,
    ownEnd,
  };
}

function columnOf(p: Scenario, failed: string[]): BoardColumn {
  const plates = failed.map((ref) => plateOf(p, ref));
  const sites = new Set(failed.flatMap((ref) => sitesOf(p, ref)));
  return { failed, plates, site: sites.size === 1 ? [...sites][0] : "", breaks: 0, changes: 0, crowded: [] };
}

/** The sites that an element lies in: a link's are those of its ends. */
function sitesOf(p: Scenario, ref: string): string[] {
  const [kind, rest] = [ref.slice(0, ref.indexOf(":")), ref.slice(ref.indexOf(":") + 1)];
  if (kind !== "link") return [siteOf(p, rest)];
  const link = p.plan.links.find((entry) => entry.id === rest);
  return (link?.ends ?? []).map((end) => siteOf(p, end));
}

/** The site of a device, or of a device/interface. */
function siteOf(p: Scenario, end: string): string {
  const [id] = end.split("/");
  return p.plan.devices.find((device) => device.id === id)?.site ?? "";
}
