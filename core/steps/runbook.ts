import { formatPrefix } from "../address/index.ts";
import { breakersOf } from "../failures/index.ts";
import { type Change, describeChange, invertChange, type Plan } from "../plan/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { type Draft, draftOf, type Step } from "./atoms.ts";
import { type Check, flowChecks, tableChecks } from "./checks.ts";
import { anyOrderOf } from "./groups.ts";
import { Judge } from "./harm.ts";
import { type Helpers, helpersFor } from "./helpers.ts";
import { EVERY_ORDER, findOrder, movedIn, type Order, type Preference, stepInto, visitsOf } from "./order.ts";
import { onPaper } from "./stages.ts";
import { type MidState, movedBetween, States } from "./states.ts";

/** One step, with the one that takes it back. */
export interface RunbookStep {
  readonly do: Change;
  readonly undo: Change;
  readonly texts: { readonly sentence: string };
}

/** The steps on one device at one time. */
export interface Visit {
  /** null for steps between devices, such as laying a link or forming a pair. */
  readonly device: string | null;
  readonly steps: readonly RunbookStep[];
  /** Runs of its steps, by their numbers from 1, that may be done in any order: every state on the way was proven safe. */
  readonly anyOrder: readonly (readonly number[])[];
  /** What must be so before the visit, and what must have become of it after. */
  readonly before: readonly Check[];
  readonly after: readonly Check[];
  /** Flows and subnets that work before and after the change and not from this visit on, and the visit by which they do again. */
  readonly breaks: readonly { readonly flow: string; readonly until: number }[];
  readonly unreached: readonly { readonly subnet: string; readonly from: string; readonly until: number }[];
  /** Unused ranges for which packets loop from this visit on, but not before or after the change. */
  readonly loops: readonly { readonly range: string; readonly from: string; readonly until: number }[];
  /** Single failures that would break a flow now which survives them both before and after the change. */
  readonly risks: readonly { readonly failed: string; readonly flow: string }[];
}

export interface Runbook {
  /** Whether nothing that works before and after the change is broken after any step, which was proven state by state. */
  readonly safe: boolean;
  /** The extent of the proof: states, and flows and subnets checked in each. */
  readonly proven: { readonly states: number; readonly flows: number; readonly subnets: number };
  readonly visits: readonly Visit[];
  /** How many times a flow takes another path, over all steps. */
  readonly moved: number;
  /** The safe order of the other preference, if it differs: how many visits it needs and how much traffic it moves. */
  readonly alternative: {
    readonly prefer: Preference;
    readonly visits: number;
    readonly moved: number;
  } | null;
  /** Runs of visits, by their numbers from 1, that may be made in any order, proven likewise. */
  readonly anyOrder: readonly (readonly number[])[];
  /** Disruptions that temporary routes avoid if no order is safe; null if one is, or if no such routes were found. */
  readonly helpers: Helpers | null;
  /** Limits of the proof, one sentence each. */
  readonly unproven: readonly string[];
}

export interface Outcome {
  readonly runbook: Runbook;
  /** The plan as it stands after each visit; the last is the plan wanted. */
  readonly plans: readonly Plan[];
}

/** The safest order of a change from one plan to another, with the checks before and after each visit and the possible
 * disruptions between. `prefer` decides among safe orders. Null if no tried order can be performed one step at a time.
 * */
export function runbookOf(before: Scenario, after: Scenario, prefer: Preference = "visits"): Outcome | null {
  const draft = draftOf(before.plan, after.plan);
  const judge = new Judge(before, after);
  const paper = onPaper(before.plan, draft.paper);
  const start = paper === before.plan ? before : before.after(paper);
  const states = new States(start, draft, judge);
  const order = findOrder(draft, states, prefer);
  if (!order) return null;
  const visits = visitsOf(draft, order.states);
  const free = anyOrderOf(visits, states);
  const ends = visits.map(({ states: own }) => own.at(-1) as MidState);
  const scenarios = [before, ...ends.slice(0, -1).map(({ scenario }) => scenario), after];
  const survived = [before, after].map(breakersIn);
  const told = visits.map(({ device, states: own }, n): Visit => {
    const steps = own.map((state, i) => draft.steps[stepInto(state, own[i - 1] ?? ends[n - 1])]);
    const [was, now] = [scenarios[n], scenarios[n + 1]];
    const lines = (scenario: Scenario) =>
      device === null
        ? []
        : tableChecks(
            scenario,
            device,
            steps.map(({ change }) => change),
          );
    return {
      device,
      steps: steps.map(runbookStep),
      anyOrder: numbered(free.steps[n]),
      before: lines(was),
      after: [...lines(now), ...flowChecks(now, was)],
      breaks: brokenIn(visits, n),
      unreached: unreachedIn(visits, n),
      loops: loopsIn(visits, n),
      risks: n === visits.length - 1 ? [] : risksIn(now, survived, judge.flows),
    };
  });
  return {
    runbook: {
      safe: order.safe,
      proven: { states: Math.max(0, order.states.length - 1), ...judge.counts },
      visits: told,
      moved: movedIn(order, states.start),
      alternative: alternativeTo(order, draft, states, prefer),
      anyOrder: numbered(free.visits),
      helpers: order.safe ? null : helpersFor(start, after, draft, order, judge),
      unproven: unproven(draft, order.best, ends),
    },
    plans: ends.map(({ scenario }, n) => (n === ends.length - 1 ? after.plan : scenario.plan)),
  };
}

/** Up to this many steps, the order of the other preference is computed too. */
const MAX_COMPARED = 40;

/** Positions as people count them. */
function numbered(runs: readonly (readonly number[])[]): number[][] {
  return runs.map((run) => run.map((n) => n + 1));
}

function runbookStep({ change }: Step): RunbookStep {
  return { do: change, undo: invertChange(change), texts: { sentence: describeChange(change) } };
}

type Visits = ReturnType<typeof visitsOf>;

/** What first breaks in a visit, by a key; with the number of the visit by whose end it works again. */
function firstIn<T>(
  visits: Visits,
  n: number,
  of: (state: MidState) => readonly T[],
  keyOf: (one: T) => string,
) {
  const broken = new Map(visits[n].states.flatMap((state) => of(state).map((one) => [keyOf(one), one])));
  const atEnd = (v: number) => {
    const end = visits[v]?.states.at(-1);
    return new Set(end ? of(end).map(keyOf) : []);
  };
  const earlier = atEnd(n - 1);
  return [...broken].flatMap(([key, one]) => {
    if (earlier.has(key)) return [];
    let until = n;
    while (until < visits.length - 1 && atEnd(until).has(key)) until++;
    return [{ one, until: until + 1 }];
  });
}

function brokenIn(visits: Visits, n: number): Visit["breaks"] {
  const found = firstIn(visits, n, ({ harm }) => harm.flows, String);
  return found.map(({ one, until }) => ({ flow: one, until }));
}

function unreachedIn(visits: Visits, n: number): Visit["unreached"] {
  const found = firstIn(
    visits,
    n,
    ({ harm }) => harm.subnets,
    ({ subnet, from }) => `${formatPrefix(subnet)} ${from}`,
  );
  return found.map(({ one: { subnet, from }, until }) => ({ subnet: formatPrefix(subnet), from, until }));
}

function loopsIn(visits: Visits, n: number): Visit["loops"] {
  const found = firstIn(
    visits,
    n,
    ({ harm }) => harm.loops,
    ({ range, from }) => `${formatPrefix(range)} ${from}`,
  );
  return found.map(({ one: { range, from }, until }) => ({ range: formatPrefix(range), from, until }));
}

/** The safe order of the other preference, where it moves less traffic or needs fewer visits. */
function alternativeTo(
  order: Order,
  draft: Draft,
  states: States,
  prefer: Preference,
): Runbook["alternative"] {
  if (!order.safe || draft.steps.length > MAX_COMPARED) return null;
  const last = order.states.at(-1);
  const least = last ? movedBetween(states.start, last) : 0;
  if (prefer === "visits" && movedIn(order, states.start) === least) return null;
  const other: Preference = prefer === "visits" ? "traffic" : "visits";
  const found = findOrder(draft, states, other);
  if (!found?.safe) return null;
  const told = (one: Order) => ({
    visits: visitsOf(draft, one.states).length,
    moved: movedIn(one, states.start),
  });
  const [mine, others] = [told(order), told(found)];
  const isBetter = other === "traffic" ? others.moved < mine.moved : others.visits < mine.visits;
  return isBetter ? { prefer: other, ...others } : null;
}

/** The single failures that break each flow, by its id. */
function breakersIn(scenario: Scenario): ReadonlyMap<string, ReadonlySet<string>> {
  const asked = scenario.flows();
  const found = breakersOf(
    scenario.engine,
    scenario.gateways,
    asked.map(({ question }) => question),
  );
  return new Map(found.map(({ breakers }, n) => [asked[n].flow.id, breakers]));
}

/** Single failures that break a flow in a state, but neither before nor after; for flows that exist in both plans and
 * work there. */
function risksIn(
  state: Scenario,
  [before, after]: readonly ReadonlyMap<string, ReadonlySet<string>>[],
  watched: ReadonlySet<string>,
): Visit["risks"] {
  return [...breakersIn(state)].flatMap(([flow, breaking]) =>
    watched.has(flow)
      ? [...breaking]
          .filter((failed) => !before.get(flow)?.has(failed) && !after.get(flow)?.has(failed))
          .map((failed) => ({ failed, flow }))
      : [],
  );
}

function unproven(draft: Draft, best: boolean, ends: readonly MidState[]): string[] {
  const told: string[] = [];
  if (!best)
    told.push(
      `The change has ${draft.steps.length} steps. All orders are tried only up to ${EVERY_ORDER} steps, so another order may need fewer visits or disrupt less.`,
    );
  for (const [n, { scenario }] of ends.entries()) {
    if (scenario.settled.flapping.length)
      told.push(
        `After visit ${n + 1} watches keep flapping. The result shows one of the alternating states.`,
      );
  }
  return told;
}
