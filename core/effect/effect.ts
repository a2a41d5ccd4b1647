import { formatPrefix } from "../address/index.ts";
import { differenceWithin, prefixesOfRange, rewrittenDevices } from "../coverage/index.ts";
import { formatElement, interfaceElement } from "../network/index.ts";
import {
  applyEdit,
  type Change,
  type Edit,
  type PlanError,
  routeIdentity,
  type StaticRoute,
  staticRouteSchema,
} from "../plan/index.ts";
import { type OutcomeReport, outcomeReport } from "../reports/index.ts";
import { inUse, nextHopsOf } from "../routing/index.ts";
import { type FlowChange, flowChanges } from "./flow-changes.ts";
import { candidateOf, type RouteOutcome, routeOutcome } from "./route-outcome.ts";
import { type Standing, standingAfter, standingUnder } from "./standing.ts";
import { type WayBack, wayBackOf } from "./way-back.ts";

/** A range of addresses that is treated otherwise, and from which devices. */
export interface RangeEffect {
  range: string;
  from: string[];
  before: OutcomeReport;
  after: OutcomeReport;
}

/** What an edit does, before it is saved (rules 4, 5, 6 and 11): plain data. */
export interface Effect {
  /** Each route that the edit writes, with what becomes of it. */
  routes: (RouteOutcome & { wayBack: WayBack | null })[];
  ranges: RangeEffect[];
  /** Whether all of the address space was looked at. */
  wholeSpace: boolean;
  flows: FlowChange[];
  /** Where a written route stands by: what the edit does once the route before it is gone. */
  later: { failed: string; flows: FlowChange[] } | null;
}

export type EffectOutcome =
  | { ok: true; effect: Effect; after: Standing }
  | { ok: false; errors: PlanError[] };

/**
 * Works out what an edit does to a network under its conditions. Time: about that of the walks that it
 * changes; `budget` limits how many pairs of range and sender are walked.
 */
export function effectOf(
  before: Standing,
  edit: Edit,
  budget: number = Number.POSITIVE_INFINITY,
): EffectOutcome {
  const outcome = applyEdit(before.engine.network.plan, edit);
  if (!outcome.ok) return outcome;
  const after = standingAfter(before, outcome.plan);
  const { world } = after.engine.healthy;
  const written = writtenBy(edit, outcome.plan);
  const routes = written.flatMap(({ device, table, route }) => {
    const told = routeOutcome(world, device, table, route);
    return told ? [{ ...told, wayBack: wayBackOf(after.engine, device, table, route) }] : [];
  });
  const { ranges, complete } = rangeEffects(before, after, budget);
  return {
    ok: true,
    after,
    effect: {
      routes,
      ranges,
      wholeSpace: complete,
      flows: flowChanges(before, after, rewrittenDevices(before.engine.healthy.world, world)),
      later: laterEffect(before, after, written),
    },
  };
}

interface WrittenRoute {
  device: string;
  table: string | null;
  route: StaticRoute;
}

/** The routes that an edit adds or changes, as they stand in the plan after it. */
function writtenBy(edit: Edit, plan: Standing["engine"]["network"]["plan"]): WrittenRoute[] {
  const placed = (change: Change): { device: string; table: string | null } | null => {
    if (change.in === "policy-table") return { device: change.device, table: change.table };
    return change.in === "device" && change.collection === "routes"
      ? { device: change.device, table: null }
      : null;
  };
  return edit.changes.flatMap((change) => {
    const place = placed(change);
    const wanted = staticRouteSchema.safeParse(change.after);
    if (!place || !wanted.success) return [];
    const device = plan.devices.find((d) => d.id === place.device);
    const routes = place.table
      ? device?.policyTables.find((t) => t.name === place.table)?.routes
      : device?.routes;
    const route = routes?.find((r) => routeIdentity(r) === routeIdentity(wanted.data));
    return route ? [{ ...place, route }] : [];
  });
}

/** The ranges that change, those that change alike from several devices told once. */
function rangeEffects(
  before: Standing,
  after: Standing,
  budget: number,
): { ranges: RangeEffect[]; complete: boolean } {
  const side = ({ engine, gateways }: Standing) => ({ world: engine.healthy.world, gateways });
  const [a, b] = [side(before), side(after)];
  const told = new Map<string, RangeEffect>();
  const { changes, complete } = differenceWithin(a, b, budget);
  for (const change of changes) {
    const was = outcomeReport(a, change.before);
    const now = outcomeReport(b, change.after);
    for (const prefix of prefixesOfRange(change.range)) {
      const range = formatPrefix(prefix);
      // The ways there differ by where they start; what becomes of the packet is what is told.
      const key = JSON.stringify([range, summaryOf(was), summaryOf(now)]);
      const known = told.get(key);
      if (known) known.from.push(change.from);
      else told.set(key, { range, from: [change.from], before: was, after: now });
    }
  }
  return { ranges: [...told.values()], complete };
}

function summaryOf({ result, at, code }: OutcomeReport) {
  return [result, at, code];
}

/** What the first standby route of an edit does once the one in use before it has lost its interface. */
function laterEffect(before: Standing, after: Standing, written: readonly WrittenRoute[]): Effect["later"] {
  const { network } = after.engine;
  const { world } = after.engine.healthy;
  for (const { device, table, route } of written) {
    const record = network.devices[network.deviceIndex.get(device) ?? -1];
    const routes = table === null ? network.plan.devices[record?.index ?? -1]?.routes : undefined;
    if (!record || !routes) continue;
    const c = candidateOf(network, record, table, routes.indexOf(route));
    if (c < 0) continue;
    const tables = world.tablesOf(record.index);
    const used = inUse(network, tables, network.candidates.group[c]);
    const [hop] = used.length && !used.includes(c) ? nextHopsOf(network, tables, used[0]) : [];
    if (!hop) continue;
    const ref = formatElement(network, interfaceElement(network, hop.out));
    const flows = flowChanges(standingUnder(before, [ref]), standingUnder(after, [ref]), null);
    return { failed: ref, flows };
  }
  return null;
}
