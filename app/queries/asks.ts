import { parsePrefix } from "../../core/address/index.ts";
import {
  type Companion,
  type Completion,
  companionsOf,
  completeRouteLine,
  proposeFlows,
  proposeLinks,
  returnRoutesEverywhere,
} from "../../core/authoring/index.ts";
import type { Progress } from "../../core/failures/index.ts";
import {
  type FindingChanges,
  findAll,
  findingChanges,
  NO_FINDING_CHANGES,
  remediesOf,
} from "../../core/findings/index.ts";
import {
  type Cost,
  costsOf,
  flowStanding,
  groupRanges,
  type Impact,
  impactOf,
  type RangeGroup,
} from "../../core/impact/index.ts";
import {
  applyEdit,
  differencePlans,
  type Edit,
  type PlanError,
  type StaticRoute,
} from "../../core/plan/index.ts";
import { type Run, runThrough, type TimelineReport } from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { askFrom, carriersOfTrip, walkBothWays } from "../../core/walk/index.ts";
import { type InterfaceList, readInterfaceList } from "../../exchange/interface-list.ts";
import { type Board, sweptBoard } from "./board.ts";
import { outageSteps, standingDown } from "./conditions.ts";
import { type FindingSet, findingSet } from "./findings.ts";
import type { FlowQuery } from "./flows.ts";
import { type Witnesses, witnessesOf } from "./witnesses.ts";

/**
 * What a page asks while it is open, each with its own parameters: plain data in and out. Those that can take
 * long go to a worker of their own, so that typing never waits for them.
 */

/** An effect as a page shows it: ranges that change alike as one, and not more of them than can be read. */
export interface EffectShown extends Omit<Impact, "ranges"> {
  ranges: RangeGroup[];
  rangesLeftOut: number;
}

export type EffectAnswer = { ok: true; effect: EffectShown } | { ok: false; errors: PlanError[] };

const MAX_RANGES = 12;

function shown({ ranges, ...effect }: Impact): EffectShown {
  const { groups, leftOut } = groupRanges(ranges, MAX_RANGES);
  return { ...effect, ranges: groups, rangesLeftOut: leftOut };
}

/** Pairs of range and sender that a preview walks at most, to follow a keystroke. */
const PREVIEW_WALKS = 80;

function effect(
  p: Scenario,
  { down, edit, whole }: { down: string[]; edit: Edit; whole?: boolean },
): EffectAnswer {
  const outcome = impactOf(p.under(down), edit, whole ? undefined : PREVIEW_WALKS);
  return outcome.ok ? { ok: true, effect: shown(outcome.effect) } : outcome;
}

function completions(
  p: Scenario,
  { text, caret, device }: { text: string; caret: number; device: string | null },
): Completion[] {
  return completeRouteLine(p.engine.network, text, caret, device);
}

function companions(
  p: Scenario,
  { down, device, route }: { down: string[]; device: string; route: StaticRoute },
): Companion[] {
  return companionsOf(p.under(down), device, route);
}

/** Findings; with `fixes` also their fixes, whose proof takes the longest. */
function findings(p: Scenario, { down, fixes }: { down: string[]; fixes: boolean }): FindingSet {
  return findingSet(p, down, fixes);
}

/** The findings that an edit makes, mends, or changes for the worse or the better. */
function findingsAfter(p: Scenario, { down, edit }: { down: string[]; edit: Edit }): FindingChanges {
  const before = p.under(down);
  const outcome = applyEdit(p.plan, edit);
  if (!outcome.ok) return NO_FINDING_CHANGES;
  const old = findingSet(p, down, false).findings;
  return findingChanges(old, findAll(before.after(outcome.plan), { fixes: false }));
}

/** Edits with which a question works, proven: the same that a finding about it offers. */
function remedies(p: Scenario, { down, asked }: { down: string[]; asked: FlowQuery }): Edit[] {
  const scenario = p.under(down);
  const flow = p.plan.flows.find((f) => f.id === asked.flow);
  const { from, to } = flow ?? asked;
  if (!from || !to) return [];
  const found = askFrom(scenario.engine.network, { ...(flow ?? asked), from, to });
  return found.ok ? remediesOf(scenario, found.question) : [];
}

/** The costs of an edit; a proven fix has none. */
function costs(p: Scenario, { down, edit }: { down: string[]; edit: Edit }): Cost[] {
  const before = p.under(down);
  const outcome = before.afterEdit(edit);
  return outcome.ok ? costsOf(before, outcome.scenario, edit, MAX_COSTS) : [];
}

/** Costs that are listed at most. */
const MAX_COSTS = 20;

/** The routes that a network lacks everywhere. */
function everywhere(p: Scenario, { down, to }: { down: string[]; to: string }) {
  const prefix = parsePrefix(to);
  return prefix ? returnRoutesEverywhere(p.under(down), prefix) : null;
}

/** One row of the grid: a sender's way to each destination and back, now and with no failures. */
function gridRow(p: Scenario, { down, from, to }: { down: string[]; from: string; to: string[] }) {
  const now = p.under(down);
  const told = (scenario: typeof now, target: string) => {
    const asked = askFrom(scenario.engine.network, { from, to: target });
    if (!asked.ok) return null;
    return flowStanding(scenario, walkBothWays(scenario.engine.healthy.world, asked.question));
  };
  return to.map((target) => {
    const present = told(now, target);
    return { to: target, now: present, healthy: down.length ? told(p, target) : present };
  });
}

/** The draft's differences from the approved revision: configuration changes and impact. */
async function draft(p: Scenario, { down }: { down: string[] }, approved: () => Promise<Scenario>) {
  const base = await approved();
  const changes = differencePlans(base.plan, p.plan);
  if (changes.length === 0) return { changes, effect: null, ...NO_FINDING_CHANGES };
  const edit = { label: "the draft", changes };
  const outcome = impactOf(base.under(down), edit);
  return {
    changes,
    effect: outcome.ok ? shown(outcome.effect) : null,
    ...findingsAfter(base, { down, edit }),
  };
}

/** Computes cached results in advance, so that the following answers are quick. */
function warm(p: Scenario, { down, device }: { down: string[]; device: string | null }): boolean {
  const scenario = p.under(down);
  scenario.trips();
  const id = device ?? p.plan.devices[0]?.id;
  if (id) {
    const route = { to: "192.0.2.0/32", discard: "drop" };
    const change = { in: "device", device: id, collection: "routes", before: null, after: route } as const;
    for (let n = 0; n < 3; n++) impactOf(scenario, { label: "warm", changes: [change] }, PREVIEW_WALKS);
  }
  return true;
}

/** The board: every flow's result under every failure, to a depth. */
function board(
  p: Scenario,
  { down, depth }: { down: string[]; depth: 1 | 2 | 3 },
  _approved: unknown,
  progress?: Progress,
): Board {
  return sweptBoard(p, p.under(down), depth, progress);
}

/** Flows proposed for a plan without any; null if there is no sender. */
function proposedFlows(p: Scenario, _args: { down?: string[] }): Edit | null {
  return proposeFlows(p.engine.network);
}

/** The meaning of a pasted interface list, line by line, and the resulting edit. */
function interfaceList(p: Scenario, { text, device }: { text: string; device: string | null }): LinkedList {
  const list = readInterfaceList(text, p.plan, device);
  const outcome = list.edit && applyEdit(p.plan, list.edit);
  if (!list.edit || !outcome?.ok) return { ...list, links: [], linked: null };
  const links = proposeLinks(outcome.plan, endsOfChanges(list.edit));
  const changes = links.map(
    ({ before, after }) => ({ in: "plan", collection: "links", before, after }) as const,
  );
  const linked = {
    label: `${list.edit.label}, joined by ${links.length} ${links.length === 1 ? "link" : "links"}`,
    changes: [...list.edit.changes, ...changes],
  };
  return { ...list, links: links.map(({ joins }) => [...joins]), linked: links.length > 0 ? linked : null };
}

/** A list that was read, with the links implied by the subnets it adds. */
export interface LinkedList extends InterfaceList {
  /** The interfaces that each proposed link joins. */
  links: string[][];
  /** The list's edit including those links; null without any. */
  linked: Edit | null;
}

/** The interfaces that an edit writes, as "device/interface". */
function endsOfChanges({ changes }: Edit): Set<string> {
  const ends = new Set<string>();
  for (const change of changes) {
    if (change.in === "device") ends.add(`${change.device}/${(change.after as { name: string }).name}`);
    else if (change.in === "plan") {
      const { id, interfaces } = change.after as { id: string; interfaces: { name: string }[] };
      for (const port of interfaces) ends.add(`${id}/${port.name}`);
    }
  }
  return ends;
}

/** By what a capture's frames are known, where the capture itself tells whose hardware address is whose. */
function witnesses(p: Scenario, { neighbours }: { neighbours: [string, string[]][] }): Witnesses {
  return witnessesOf(p, new Map(neighbours));
}

interface TimelineArgs {
  down: string[];
  fail: string[];
  healMs: number | null;
  /** An outage that the plan has saved; "" for what `fail` and `healMs` say. */
  outage: string;
  /** Applied first. */
  edit?: Edit;
  /** Ask the approved revision instead of the one that is shown. */
  beforeDraft?: boolean;
}

/** An outage timeline and its initial state. */
export interface TimelineAnswer extends TimelineReport, Omit<Run, "report" | "cases"> {
  /** Each flow before the outage: the gateways that carry it, none where it does not work. */
  before: Record<string, string[]>;
  /** Whether all that fails heals in the end. */
  heals: boolean;
  /** When something fails, ascending. */
  failsAtMs: number[];
}

/** An outage in time: elements that fail at once and perhaps heal, or one that the plan has saved. */
async function timeline(
  p: Scenario,
  { down, fail, healMs, outage, edit, beforeDraft }: TimelineArgs,
  approved: () => Promise<Scenario>,
): Promise<TimelineAnswer | null> {
  const steps = outageSteps(p, { outage, fail, healMs });
  if (!steps) return null;
  // An element that is down in the conditions and fails here is part of the failure: it starts up.
  const base = (beforeDraft ? await approved() : p).under(standingDown(down, steps));
  const edited = edit ? applyEdit(p.plan, edit) : null;
  if (edited && !edited.ok) return null;
  const scenario = edited ? base.after(edited.plan) : base;
  const { engine, gateways } = scenario;
  const before = scenario.flows().map(({ flow: { id }, question }): [string, string[]] => {
    const trip = scenario.trace(question);
    return [id, trip.verdict === "works" ? carriersOfTrip(gateways, trip).map((g) => gateways[g].id) : []];
  });
  const failed = new Set<string>();
  for (const step of steps) {
    for (const ref of [...(step.fail ?? []), ...(step.shut ?? [])]) failed.add(ref);
    for (const ref of step.restore ?? []) failed.delete(ref);
  }
  const { report, cases: _cases, ...run } = runThrough(engine, gateways, scenario.stepsOf(steps));
  return {
    ...report,
    ...run,
    before: Object.fromEntries(before),
    heals: failed.size === 0,
    failsAtMs: steps.filter((step) => step.fail?.length || step.shut?.length).map((step) => step.atMs),
  };
}

/** An answer of a file that brings much with it: the file is loaded when it is first asked for. */
function lazily<M, A extends unknown[], R>(load: () => Promise<M>, from: (file: M) => (...args: A) => R) {
  return async (...args: A): Promise<Awaited<R>> => await from(await load())(...args);
}

const changeAsks = () => import("./change-asks.ts");
const exchangeAsks = () => import("./exchange.ts");

const asks = {
  board,
  witnesses,
  timeline,
  effect,
  completions,
  companions,
  findings,
  findingsAfter,
  costs,
  remedies,
  everywhere,
  gridRow,
  draft,
  survival: lazily(changeAsks, (file) => file.survival),
  runbook: lazily(changeAsks, (file) => file.runbook),
  templateTry: lazily(changeAsks, (file) => file.templateTry),
  warm,
  proposedFlows,
  interfaceList,
  exchange: lazily(exchangeAsks, (file) => file.readExchange),
  picture: lazily(exchangeAsks, (file) => file.picture),
};

export type AskName = keyof typeof asks;
export const askNames = Object.keys(asks) as readonly AskName[];
export type AskArgs<N extends AskName> = Parameters<(typeof asks)[N]>[1];
export type AskOf<N extends AskName> = Awaited<ReturnType<(typeof asks)[N]>>;

/** Answers; `approved` makes the approved revision ready where the answer needs it. */
export async function ask<N extends AskName>(
  name: N,
  p: Scenario,
  args: AskArgs<N>,
  approved: () => Promise<Scenario>,
  progress?: Progress,
): Promise<AskOf<N>> {
  type Answering = (
    p: Scenario,
    args: AskArgs<N>,
    approved: () => Promise<Scenario>,
    progress?: Progress,
  ) => AskOf<N>;
  return (asks[name] as unknown as Answering)(p, args, approved, progress);
}
