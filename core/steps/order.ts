import type { Draft } from "./atoms.ts";
import { isSafe } from "./harm.ts";
import type { MidState, States } from "./states.ts";

/** An order of the steps, and what is known of it. */
export interface Order {
  /** The states that it passes, after each step; the last is the whole change. */
  readonly states: readonly MidState[];
  readonly safe: boolean;
  /** Whether no other order harms less, nor as little with fewer visits: every order was looked at. */
  readonly best: boolean;
}

/** So many steps at most are tried in every order, so far as none is known to be better. */
export const EVERY_ORDER = 10;
/** States that the search for a safe order may make where there are more. */
const MAX_STATES = 1200;

/**
 * The order that harms least, of those the one with the fewest visits: harm is counted in flows and then in subnets, a
 * state at a time. Null where the steps cannot be done one after the other in any order that was tried.
 */
export function findOrder(draft: Draft, states: States): Order | null {
  const quick = greedyOrder(draft, states);
  const fewest = new Set(draft.steps.map(({ device }) => device)).size;
  if (quick && visitsOf(draft, quick).length === fewest) return { states: quick, safe: true, best: true };
  if (draft.steps.length <= EVERY_ORDER) {
    const best = leastHarm(draft, states);
    return best && { states: best, safe: best.every(({ harm }) => isSafe(harm)), best: true };
  }
  if (quick) return { states: quick, safe: true, best: false };
  const rough = carefulOrder(draft, states);
  return rough && { states: rough, safe: false, best: false };
}

/** A safe order, where one is near; null where none is found at once. It may have more visits than another. */
export function nearOrder(draft: Draft, states: States): Order | null {
  const quick = greedyOrder(draft, states);
  return quick && { states: quick, safe: true, best: false };
}

/** The devices of an order's steps, one after the other, those beside each other as one. */
export function visitsOf(
  draft: Draft,
  states: readonly MidState[],
): { device: string | null; states: MidState[] }[] {
  const visits: { device: string | null; states: MidState[] }[] = [];
  for (const [n, state] of states.entries()) {
    const { device } = draft.steps[stepInto(state, states[n - 1])];
    const last = visits.at(-1);
    if (last && last.device === device) last.states.push(state);
    else visits.push({ device, states: [state] });
  }
  return visits;
}

/** The step by which a state follows another; the first follows none. */
export function stepInto(state: MidState, from: MidState | undefined): number {
  return state.done.find((step) => !from?.done.includes(step)) as number;
}

/**
 * A safe order, found by doing all that is safe on one device before going to the next, and going back where nothing
 * safe is left. Null where none is found.
 */
function greedyOrder(draft: Draft, states: States): MidState[] | null {
  const dead = new Set<string>();
  const most = states.made + MAX_STATES;
  const goOn = (path: MidState[]): MidState[] | null => {
    const from = path.at(-1) ?? states.start;
    if (from.done.length === draft.steps.length) return path;
    if (dead.has(from.done.join()) || states.made > most) return null;
    const here = path.length ? draft.steps[stepInto(from, path.at(-2))].device : null;
    const open = draft.steps.flatMap((_, n) => (from.done.includes(n) ? [] : [n]));
    const ordered = [...open].sort(
      (a, b) =>
        Number(draft.steps[b].device === here) - Number(draft.steps[a].device === here) ||
        rank(draft, a) - rank(draft, b) ||
        a - b,
    );
    for (const step of ordered) {
      const state = states.next(from, step);
      if (!state || !isSafe(state.harm)) continue;
      const found = goOn([...path, state]);
      if (found) return found;
    }
    dead.add(from.done.join());
    return null;
  };
  return goOn([]);
}

/** What others may rest on goes first: what is added, then what is changed, then what is removed. */
function rank({ steps }: Draft, n: number): number {
  const { before, after } = steps[n].change;
  if (before === null || before === undefined) return 0;
  return after === null || after === undefined ? 2 : 1;
}

type Cost = readonly [flows: number, subnets: number, visits: number];

const less = (a: Cost, b: Cost): boolean => {
  for (const [n, value] of a.entries()) if (value !== b[n]) return value < b[n];
  return false;
};

interface Reached {
  readonly state: MidState;
  readonly device: string | null | undefined;
  readonly cost: Cost;
  readonly from: Reached | null;
}

/** The order of the least cost over all orders: the cheapest way through the sets of steps that have been done (Dijkstra 1959). */
function leastHarm(draft: Draft, states: States): MidState[] | null {
  const open: Reached[] = [{ state: states.start, device: undefined, cost: [0, 0, 0], from: null }];
  const ended = new Set<string>();
  for (;;) {
    let at = 0;
    for (let n = 1; n < open.length; n++) if (less(open[n].cost, open[at].cost)) at = n;
    const [reached] = open.splice(at, 1);
    if (!reached) return null;
    const { state, device, cost } = reached;
    const key = `${state.done.join()} ${device}`;
    if (ended.has(key)) continue;
    ended.add(key);
    if (state.done.length === draft.steps.length) return pathTo(reached);
    for (const [n, step] of draft.steps.entries()) {
      if (state.done.includes(n)) continue;
      const next = states.next(state, n);
      if (!next) continue;
      const visit = step.device === device && state.done.length > 0 ? 0 : 1;
      const { flows, subnets } = next.harm;
      const sum: Cost = [cost[0] + flows.length, cost[1] + subnets.length, cost[2] + visit];
      open.push({ state: next, device: step.device, cost: sum, from: reached });
    }
  }
}

function pathTo(reached: Reached): MidState[] {
  const path: MidState[] = [];
  for (let at: Reached | null = reached; at?.from; at = at.from) path.unshift(at.state);
  return path;
}

/** For large drafts without a safe order: each time the step that harms least, on the same device where that is equal. */
function carefulOrder(draft: Draft, states: States): MidState[] | null {
  const path: MidState[] = [];
  while (path.length < draft.steps.length) {
    const from = path.at(-1) ?? states.start;
    const here = path.length ? draft.steps[stepInto(from, path.at(-2))].device : undefined;
    let best: { state: MidState; cost: Cost } | null = null;
    for (const [n, step] of draft.steps.entries()) {
      if (from.done.includes(n)) continue;
      const state = states.next(from, n);
      if (!state) continue;
      const { flows, subnets } = state.harm;
      const cost: Cost = [flows.length, subnets.length, step.device === here ? 0 : 1];
      if (!best || less(cost, best.cost)) best = { state, cost };
    }
    if (!best) return null;
    path.push(best.state);
  }
  return path;
}
