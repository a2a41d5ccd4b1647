import { addTo } from "../collections/index.ts";
import type { Draft } from "./atoms.ts";
import { isSafe } from "./harm.ts";
import { type MidState, movedBetween, type States } from "./states.ts";

/** Among orders that harm equally little: the fewest device visits, or the least traffic moved to another path. */
export const preferences = ["visits", "traffic"] as const;
export type Preference = (typeof preferences)[number];

/** An order of the steps, with its proven properties. */
export interface Order {
  /** The states that it passes, after each step; the last is the whole change. */
  readonly states: readonly MidState[];
  readonly safe: boolean;
  /** Whether no other order harms less, nor as little with fewer visits: every order was looked at. */
  readonly best: boolean;
}

/** Up to this many steps, every order is tried, unless a best one is known already. */
export const EVERY_ORDER = 10;
/** Up to this many devices, every order of visits is tried; up to this many steps, every order for the traffic it moves. */
const MAX_DEVICES = 6;
const MAX_CALM_STEPS = 6;
/** The most states that the search for a safe order may compute for longer changes. */
const MAX_STATES = 1200;

/**
 * The order that harms least: by flows, then by subnets, summed over its states. Among equal ones `visits` prefers the fewest
 * visits, then the fewest loops in unused space, then the least traffic moved; `traffic` compares the traffic before the visits.
 * Null if no order was found in which the steps can be done one at a time.
 */
export function findOrder(draft: Draft, states: States, prefer: Preference = "visits"): Order | null {
  if (prefer === "traffic") {
    const calm =
      draft.steps.length <= MAX_CALM_STEPS ? leastHarm(draft, states, "traffic") : quietOrder(draft, states);
    if (calm?.every(({ harm }) => isSafe(harm)))
      return { states: calm, safe: true, best: draft.steps.length <= MAX_CALM_STEPS };
  }
  const byDevice = stepsByDevice(draft);
  const isSmall = draft.steps.length <= EVERY_ORDER;
  const tryVisits = byDevice.size <= MAX_DEVICES;
  const once = tryVisits ? onceEach(draft, states, byDevice) : null;
  if (once) return { states: once, safe: true, best: true };
  const quick = tryVisits && isSmall ? null : greedyOrder(draft, states);
  if (quick && !tryVisits && visitsOf(draft, quick).length === byDevice.size)
    return { states: quick, safe: true, best: true };
  if (isSmall) {
    const best = leastHarm(draft, states, "visits");
    return best && { states: best, safe: best.every(({ harm }) => isSafe(harm)), best: true };
  }
  if (quick) return { states: quick, safe: true, best: false };
  const rough = carefulOrder(draft, states);
  return rough && { states: rough, safe: false, best: false };
}

/** How many times a flow takes another path, over all steps of an order. */
export function movedIn(order: Pick<Order, "states">, start: MidState): number {
  return order.states.reduce((sum, state, n) => sum + movedBetween(order.states[n - 1] ?? start, state), 0);
}

/** A safe order found without search; null if there is none. It may have more visits than necessary. */
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

/** A safe order found greedily: do everything safe on one device before the next, and backtrack if no safe step is
 * left. Null if none is found. */
function greedyOrder(draft: Draft, states: States): MidState[] | null {
  const dead = new Set<string>();
  const most = states.made + MAX_STATES;
  const goOn = (path: MidState[]): MidState[] | null => {
    const from = path.at(-1) ?? states.start;
    if (from.done.length === draft.steps.length) return path;
    if (dead.has(from.done.join()) || states.made > most) return null;
    const here = path.length ? draft.steps[stepInto(from, path.at(-2))].device : null;
    for (const step of openSteps(draft, from, here)) {
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

/**
 * The order in which steps are tried: additions, then changes, then removals, since later steps may depend on earlier ones. Discard
 * routes come first: a summary without one makes packets loop.
 */
function rank({ steps }: Draft, n: number): number {
  const { before, after } = steps[n].change;
  if (before === null || before === undefined) {
    const discards = typeof after === "object" && after !== null && "discard" in after;
    return discards ? 0 : 1;
  }
  return after === null || after === undefined ? 3 : 2;
}

/** What orders are compared by, the first that differs deciding. */
type Cost = readonly number[];

const less = (a: Cost, b: Cost): boolean => {
  for (const [n, value] of a.entries()) if (value !== b[n]) return value < b[n];
  return false;
};

const sum = (a: Cost, b: Cost): Cost => a.map((value, n) => value + b[n]);

/** What going from one state to the next costs. */
function costOf(from: MidState, to: MidState, visits: number, prefer: Preference): Cost {
  const { flows, subnets, loops } = to.harm;
  const moved = movedBetween(from, to);
  const rest = prefer === "visits" ? [visits, loops.length, moved] : [moved, visits, loops.length];
  return [flows.length, subnets.length, ...rest];
}

interface Reached {
  readonly state: MidState;
  readonly device: string | null | undefined;
  readonly cost: Cost;
  readonly from: Reached | null;
}

const FREE: Cost = [0, 0, 0, 0, 0];

/**
 * The cheapest path through the sets of done steps, from a state until `isEnd` (Dijkstra 1959). `ways` returns the next states.
 * Null if none leads there, or if more than `most` states were made.
 */
function cheapest(
  start: MidState,
  states: States,
  most: number,
  isEnd: (state: MidState) => boolean,
  ways: (from: Reached) => readonly Reached[],
): Reached | null {
  const open: Reached[] = [{ state: start, device: undefined, cost: FREE, from: null }];
  const ended = new Set<string>();
  for (;;) {
    let at = 0;
    for (let n = 1; n < open.length; n++) if (less(open[n].cost, open[at].cost)) at = n;
    const [reached] = open.splice(at, 1);
    if (!reached || states.made > most) return null;
    const key = `${reached.state.done.join()} ${reached.device}`;
    if (ended.has(key)) continue;
    ended.add(key);
    if (isEnd(reached.state)) return reached;
    open.push(...ways(reached));
  }
}

/** The order of the least cost over all orders. */
function leastHarm(draft: Draft, states: States, prefer: Preference): MidState[] | null {
  const found = cheapest(
    states.start,
    states,
    Number.POSITIVE_INFINITY,
    ({ done }) => done.length === draft.steps.length,
    (from) =>
      draft.steps.flatMap((step, n): Reached[] => {
        const next = from.state.done.includes(n) ? null : states.next(from.state, n);
        if (!next) return [];
        const visits = step.device === from.device && from.state.done.length > 0 ? 0 : 1;
        const cost = sum(from.cost, costOf(from.state, next, visits, prefer));
        return [{ state: next, device: step.device, cost, from }];
      }),
  );
  return found && pathTo(found);
}

/** The cheapest safe order that visits each device once; null if none was found. */
function onceEach(
  draft: Draft,
  states: States,
  byDevice: ReadonlyMap<string | null, readonly number[]>,
): MidState[] | null {
  const found = cheapest(
    states.start,
    states,
    states.made + MAX_STATES,
    ({ done }) => done.length === draft.steps.length,
    (from) =>
      [...byDevice].flatMap(([device, steps]): Reached[] => {
        if (from.state.done.includes(steps[0])) return [];
        const visit = safeVisit(draft, states, from, steps);
        return visit ? [{ ...visit, device }] : [];
      }),
  );
  return found && pathTo(found);
}

function stepsByDevice({ steps }: Draft): Map<string | null, number[]> {
  const byDevice = new Map<string | null, number[]>();
  for (const [n, { device }] of steps.entries()) addTo(byDevice, device, n);
  return byDevice;
}

/** All steps of one device in a safe order, in the order of `rank` if possible. Null if there is none. */
function safeVisit(draft: Draft, states: States, from: Reached, steps: readonly number[]): Reached | null {
  const ordered = [...steps].sort((a, b) => rank(draft, a) - rank(draft, b) || a - b);
  const dead = new Set<string>();
  const goOn = (at: Reached): Reached | null => {
    const open = ordered.filter((step) => !at.state.done.includes(step));
    if (open.length === 0) return at;
    const key = at.state.done.join();
    if (dead.has(key)) return null;
    for (const step of open) {
      const state = states.next(at.state, step);
      if (!state || !isSafe(state.harm)) continue;
      const visits = open.length === ordered.length ? 1 : 0;
      const cost = sum(at.cost, costOf(at.state, state, visits, "visits"));
      const found = goOn({ state, device: draft.steps[step].device, cost, from: at });
      if (found) return found;
    }
    dead.add(key);
    return null;
  };
  return goOn(from);
}

function pathTo(reached: Reached): MidState[] {
  const path: MidState[] = [];
  for (let at: Reached | null = reached; at?.from; at = at.from) path.unshift(at.state);
  return path;
}

/** Takes the first safe step that moves no traffic, else the safe step that moves least. Null if no step is safe. */
function quietOrder(draft: Draft, states: States): MidState[] | null {
  return stepByStep(draft, states, (from, state) =>
    isSafe(state.harm) ? [movedBetween(from, state)] : null,
  );
}

/** For large drafts without a safe order: takes the step that harms least, on the same device if equal. */
function carefulOrder(draft: Draft, states: States): MidState[] | null {
  return stepByStep(draft, states, (_, { harm: { flows, subnets } }) => [flows.length, subnets.length]);
}

/**
 * Takes the step of least cost each time, or the first that costs nothing; steps on the same device first, then by `rank`. Null if no
 * step can follow. `costOf` returns null for steps that are not allowed.
 */
function stepByStep(
  draft: Draft,
  states: States,
  costOf: (from: MidState, state: MidState) => Cost | null,
): MidState[] | null {
  const path: MidState[] = [];
  while (path.length < draft.steps.length) {
    const from = path.at(-1) ?? states.start;
    const here = path.length ? draft.steps[stepInto(from, path.at(-2))].device : undefined;
    let best: { state: MidState; cost: Cost } | null = null;
    for (const step of openSteps(draft, from, here)) {
      const state = states.next(from, step);
      const cost = state && costOf(from, state);
      if (state && cost && (!best || less(cost, best.cost))) best = { state, cost };
      if (best?.cost.every((value) => value === 0)) break;
    }
    if (!best) return null;
    path.push(best.state);
  }
  return path;
}

/** Steps that are not done yet, those of the device that is being visited first. */
function openSteps(draft: Draft, { done }: MidState, here: string | null | undefined): number[] {
  const isHere = (step: number) => Number(draft.steps[step].device === here);
  return draft.steps
    .flatMap((_, n) => (done.includes(n) ? [] : [n]))
    .sort((a, b) => isHere(b) - isHere(a) || rank(draft, a) - rank(draft, b) || a - b);
}
