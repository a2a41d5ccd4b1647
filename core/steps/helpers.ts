import type { Change, StaticRoute } from "../plan/index.ts";
import { detourOf } from "../remedies/index.ts";
import type { Scenario } from "../scenario/index.ts";
import type { Draft } from "./atoms.ts";
import { isSafe, type Judge } from "./harm.ts";
import { EVERY_ORDER, findOrder, nearOrder, type Order } from "./order.ts";
import { type MidState, States } from "./states.ts";

/** Routes that stand while a change is carried out: added before its first step, removed after its last. */
export interface Helpers {
  readonly routes: readonly { readonly device: string; readonly route: StaticRoute }[];
  /** Flows that break in between without them and not with them. */
  readonly saves: readonly string[];
  /** Whether with them nothing breaks at all. */
  readonly safe: boolean;
}

/** Steps up to which every order is tried with helpers that do not make all of it safe. */
const MAX_STEPS = 7;

/** Flows for which helpers are looked for at most. */
const MAX_FLOWS = 3;

/** The helper routes that avoid most of an order's disruptions, proven: with them the best order is searched again and
 * every state judged. Null if none were found, or if the change has too many steps to try every order. */
export function helpersFor(
  start: Scenario,
  after: Scenario,
  draft: Draft,
  { states: passed }: Order,
  judge: Judge,
): Helpers | null {
  if (draft.steps.length > EVERY_ORDER) return null;
  const broken = brokenFlows(passed);
  let best: { helpers: Helpers; harm: number } = { helpers: NONE, harm: harmOf(passed) };
  for (const [flow, state] of [...broken].slice(0, MAX_FLOWS)) {
    const asked = state.scenario.flows().find((one) => one.flow.id === flow);
    const detour = asked && detourOf(state.scenario, asked.question);
    if (!detour) continue;
    const { changes } = detour;
    const helped = addSafely(start, changes, judge);
    if (!helped || !addSafely(after, changes, judge)) continue;
    const states = new States(helped, draft, judge);
    const order =
      nearOrder(draft, states) ?? (draft.steps.length <= MAX_STEPS ? findOrder(draft, states) : null);
    if (!order) continue;
    const left = brokenFlows(order.states);
    const saves = [...broken.keys()].filter((id) => !left.has(id));
    const harm = harmOf(order.states);
    if (saves.length > 0 && harm < best.harm)
      best = { helpers: { routes: changes.map(routeOf), saves, safe: order.safe }, harm };
    if (order.safe) break;
  }
  return best.helpers === NONE ? null : best.helpers;
}

const NONE: Helpers = { routes: [], saves: [], safe: false };

/** The network with routes added one by one; null if one cannot be added or breaks something. Removing them passes the
 * same states. */
function addSafely(scenario: Scenario, changes: readonly Change[], judge: Judge): Scenario | null {
  let now = scenario;
  for (const change of changes) {
    const outcome = now.afterEdit({ label: "helper", changes: [change] });
    if (!outcome.ok || !isSafe(judge.judge(outcome.scenario, false).harm)) return null;
    now = outcome.scenario;
  }
  return now;
}

function routeOf(change: Change): Helpers["routes"][number] {
  return { device: (change as { device: string }).device, route: change.after as StaticRoute };
}

/** The flows that some state breaks, each with the first that does. */
function brokenFlows(states: readonly MidState[]): Map<string, MidState> {
  const broken = new Map<string, MidState>();
  for (const state of states) {
    for (const id of state.harm.flows) if (!broken.has(id)) broken.set(id, state);
  }
  return broken;
}

/** Flows and subnets, a state at a time: what orders are compared by. */
function harmOf(states: readonly MidState[]): number {
  return states.reduce((sum, { harm }) => sum + harm.flows.length * 1e6 + harm.subnets.length, 0);
}
