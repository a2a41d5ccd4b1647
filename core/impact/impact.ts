import { formatAddress, formatPrefix, sameAddress } from "../address/index.ts";
import { formatElement, interfaceElement, type Network } from "../network/index.ts";
import { applyEdit, type Edit, type PlanError, staticRouteSchema } from "../plan/index.ts";
import {
  differenceWithin,
  prefixesOfRange,
  type RangeChange,
  type RangeOutcome,
  type Suspects,
  suspectsOf,
} from "../reachability/index.ts";
import { type OutcomeReport, outcomeReport } from "../reports/index.ts";
import { inUse, nextHopsOf } from "../routes/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { type FlowChange, flowChanges, flowsOfOneSide } from "./flow-changes.ts";
import { type ReturnPath, returnPathOf } from "./return-path.ts";
import { candidateOf, type RouteOutcome, routeOutcome } from "./route-outcome.ts";

/** A range of addresses that is treated otherwise, and from which devices. */
export interface RangeImpact {
  range: string;
  from: string[];
  before: OutcomeReport;
  after: OutcomeReport;
}

/** What an edit does, before it is saved (rules 4, 5, 6 and 11): plain data. */
export interface Impact {
  /** Each route the edit writes, with its outcome. */
  routes: (RouteOutcome & { wayBack: ReturnPath | null })[];
  ranges: RangeImpact[];
  /** Whether all of the address space was looked at. */
  wholeSpace: boolean;
  flows: FlowChange[];
  /** For a written standby route: the edit's effect once the preferred route fails. */
  later: { failed: string; flows: FlowChange[] } | null;
}

export type ImpactOutcome =
  | { ok: true; effect: Impact; after: Scenario }
  | { ok: false; errors: PlanError[] };

/**
 * Works out what an edit does to a network under its conditions. Time: about that of the walks that it
 * changes; `budget` limits how many pairs of range and sender are walked.
 */
export function impactOf(
  before: Scenario,
  edit: Edit,
  budget: number = Number.POSITIVE_INFINITY,
): ImpactOutcome {
  const outcome = applyEdit(before.engine.network.plan, edit);
  if (!outcome.ok) return outcome;
  const after = before.after(outcome.plan);
  const { world } = after.engine.healthy;
  const written = writtenBy(edit, after.engine.network);
  const routes = written.map((c) => ({ ...routeOutcome(world, c), wayBack: returnPathOf(after.engine, c) }));
  const suspects = suspectsOf(before.world, after.world);
  const { ranges, complete } = rangeEffects(before, after, budget, suspects);
  return {
    ok: true,
    after,
    effect: {
      routes,
      ranges,
      wholeSpace: complete,
      flows: [...flowChanges(before, after, suspects), ...flowsOfOneSide(before, after)],
      later: laterEffect(before, after, written),
    },
  };
}

/** The candidates that the routes became which an edit adds or changes. */
function writtenBy(edit: Edit, network: Network): number[] {
  return edit.changes.flatMap((change) => {
    const ofRoutes =
      change.in === "policy-table" || (change.in === "device" && change.collection === "routes");
    const wanted = ofRoutes ? staticRouteSchema.safeParse(change.after) : null;
    if (!ofRoutes || !wanted?.success) return [];
    const table = change.in === "policy-table" ? change.table : null;
    const c = candidateOf(network, change.device, table, wanted.data);
    return c < 0 ? [] : [c];
  });
}

/** The ranges that change; equal changes from several devices are merged. */
function rangeEffects(
  before: Scenario,
  after: Scenario,
  budget: number,
  suspects: Suspects,
): { ranges: RangeImpact[]; complete: boolean } {
  const told = new Map<string, RangeImpact>();
  const { changes, complete } = differenceWithin(before, after, budget, suspects);
  const rangesAlike = new Map<string, readonly string[]>();
  /** The previous change and its merged form: changes of one range are adjacent. */
  let last: { change: RangeChange; impacts: readonly RangeImpact[] } | null = null;
  for (const change of changes) {
    if (last && canMerge(last.change, change)) {
      for (const { from } of last.impacts) from.push(change.from);
      continue;
    }
    const { first, last: end } = change.range;
    const place = `${formatAddress(first)} ${formatAddress(end)}`;
    const texts = rangesAlike.get(place) ?? prefixesOfRange(change.range).map(formatPrefix);
    rangesAlike.set(place, texts);
    // The forward paths differ by sender; the packet's fate is reported.
    const kind = `${endOf(change.before)} ${endOf(change.after)}`;
    const impacts = texts.map((range) => {
      const key = `${range} ${kind}`;
      let known = told.get(key);
      if (!known) {
        const [was, now] = [outcomeReport(before, change.before), outcomeReport(after, change.after)];
        known = { range, from: [], before: was, after: now };
        told.set(key, known);
      }
      known.from.push(change.from);
      return known;
    });
    last = { change, impacts };
  }
  return { ranges: [...told.values()], complete };
}

/** Whether two changes merge: same range, same ends. */
function canMerge(a: RangeChange, b: RangeChange): boolean {
  return (
    sameAddress(a.range.first, b.range.first) &&
    sameAddress(a.range.last, b.range.last) &&
    endsAlike(a.before, b.before) &&
    endsAlike(a.after, b.after)
  );
}

function endsAlike(a: RangeOutcome, b: RangeOutcome): boolean {
  return a.result === b.result && a.at === b.at && a.code === b.code;
}

function endOf({ result, at, code }: RangeOutcome): string {
  return `${result} ${at} ${code}`;
}

/** What the first standby route of an edit does once the one in use before it has lost its interface. */
function laterEffect(before: Scenario, after: Scenario, written: readonly number[]): Impact["later"] {
  const { network, healthy } = after.engine;
  const { candidates } = network;
  for (const c of written) {
    const tables = healthy.world.tablesOf(candidates.device[c]);
    if (candidates.table[c] >= tables.device.vrfs.length) continue;
    const used = inUse(network, tables, candidates.group[c]);
    const [hop] = used.length && !used.includes(c) ? nextHopsOf(network, tables, used[0]) : [];
    if (!hop) continue;
    const ref = formatElement(network, interfaceElement(network, hop.out));
    const flows = flowChanges(before.under([ref]), after.under([ref]), null);
    return { failed: ref, flows };
  }
  return null;
}
