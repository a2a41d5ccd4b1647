import { parseAddress } from "../../../core/address/index.ts";
import type { Collector } from "../../facts/index.ts";
import type { TokenRole } from "../../layout.ts";
import { states } from "../meanings.ts";
import type { ReaderOptions } from "../reader.ts";
import { readWords, takeRouteFields } from "../route-fields.ts";
import { type LineContext, type LineReading, partsOfCode } from "./line.ts";
import { type Question, roleOfNumbers, type SlotNumber } from "./numbers.ts";

export interface Located {
  readonly file: string;
  readonly line: number;
  readonly text: string;
}

/** A route being assembled from its lines: the destination, and each next hop with its line. */
export interface OpenRoute {
  readonly at: Located;
  readonly to: string;
  vrf: string;
  table: string;
  readonly words: string[];
  readonly ways: { readonly at: Located; readonly reading: LineReading }[];
  /** The block of lines that it consists of; null for a row. */
  readonly block: number | null;
  /** The open question about one of its numbers. */
  question: string | null;
  /** An assumption that it was read with. */
  assumption: string | null;
}

const isLearned = (source: string) =>
  !["static", "connected", "local"].includes(source) && !states.has(source);

/** The source of a route, or the code that is read for it, and whether that source is known to learn routes. */
function sourceOf({ words }: OpenRoute, context: LineContext): Pick<SlotNumber, "source" | "isLearned"> {
  const meant = words.flatMap((word) => context.meaningsOf(word)).find((meaning) => !states.has(meaning));
  if (meant !== undefined) return { source: meant, isLearned: isLearned(meant) };
  return { source: words.find((word) => context.meaningsOf(word).length === 0) ?? "", isLearned: false };
}

/**
 * Decides the numbers without a known meaning, slot by slot over the whole text; those that stay open become questions,
 * and their routes wait for the answers.
 *
 * @param answers roles by the names of columns
 */
export function settleRoutes(
  routes: readonly OpenRoute[],
  context: LineContext,
  file: string,
  answers: ReadonlyMap<string, TokenRole>,
): Question[] {
  const slots = new Map<
    string,
    { name: string; numbers: (SlotNumber & { route: OpenRoute; way: number; token: number })[] }
  >();
  for (const route of routes)
    for (const [way, { reading }] of route.ways.entries())
      for (const { token, value, slot } of reading.entry.openNumbers) {
        const known = slots.get(slot) ?? { name: reading.slotNames.get(slot) ?? slot, numbers: [] };
        known.numbers.push({ value, ...sourceOf(route, context), route, way, token });
        slots.set(slot, known);
      }
  const decided = new Map(
    [...slots].map(([slot, { name, numbers }]) => [slot, answers.get(name) ?? roleOfNumbers(numbers)]),
  );
  const open = [...decided].filter(([, role]) => role === null).map(([slot]) => slot);
  const isTaken = (role: TokenRole) => [...decided.values()].includes(role);
  // With two numbers of which one is decided, the other has the remaining role.
  for (const slot of open.length === 1 ? open : []) {
    if (isTaken("distance") && !isTaken("metric")) decided.set(slot, "metric");
    else if (isTaken("metric") && !isTaken("distance")) decided.set(slot, "distance");
  }
  const questions: Question[] = [];
  for (const [slot, { name, numbers }] of slots) {
    const role = decided.get(slot) ?? null;
    for (const { route, way, token, value } of numbers) {
      const { entry } = route.ways[way].reading;
      if (role === null) route.question ??= name;
      else if (role === "distance" || role === "metric") {
        entry[role] ||= String(value);
        entry.roles[token] = role;
      }
    }
    if (role !== null) continue;
    const [first] = numbers;
    const { via } = first.route.ways[first.way].reading.entry;
    const candidate = (as: TokenRole) => ({
      role: as,
      to: first.route.to,
      via: via || null,
      distance: as === "distance" ? first.value : null,
      metric: as === "metric" ? first.value : null,
    });
    const lines = numbers.map(({ route, way }) => route.ways[way].at.line);
    questions.push({
      file,
      column: name,
      lines,
      candidates: (["distance", "metric", "ignored"] as const).map(candidate),
    });
  }
  inferCodes(routes, context);
  return questions;
}

/** Codes without a meaning whose routes all have an interface and no next hop stand for connected networks. */
function inferCodes(routes: readonly OpenRoute[], context: LineContext) {
  const byCode = new Map<string, OpenRoute[]>();
  for (const route of routes)
    for (const word of new Set(route.words))
      if (context.meaningsOf(word).length === 0) byCode.set(word, [...(byCode.get(word) ?? []), route]);
  const others = routes.some(({ ways }) => ways.some(({ reading }) => reading.entry.via));
  for (const [word, own] of byCode) {
    const isDirect = own.every(({ ways }) => ways.every(({ reading: { entry } }) => !entry.via && entry.out));
    if (!isDirect || !others) continue;
    for (const route of own) {
      const source = isHost(route.to) ? "local" : "connected";
      route.words.splice(route.words.indexOf(word), 1, source);
      route.assumption = `code "${word}" assumed to be ${source}: it has no next hop`;
    }
  }
}

const isHost = (to: string) => to.endsWith(to.includes(":") ? "/128" : "/32");

/** The note on an address of the line that has no place in the route; null without one. */
function otherAddress(strange: readonly string[]): string | null {
  const other = strange.find((text) => parseAddress(text) !== null);
  return other === undefined ? null : `${other} on the same line is ignored`;
}

/** Words that only say that there is no next hop: any other source is more exact. */
const isWeak = (word: string) => /^\W{0,3}(?:attached|direct)$/i.test(word);

/** Adds a route to the facts, with the fate of each of its lines. */
export function emitRoute(
  route: OpenRoute,
  silence: boolean | null,
  exits: ReadonlySet<string>,
  context: LineContext,
  into: Collector,
  options: ReaderOptions,
) {
  const { ways } = route;
  for (const { at, reading } of ways) {
    const { entry } = reading;
    if (route.question !== null) {
      into.fate(
        at,
        "doubtful",
        `is ${/^\d+$/.test(route.question) ? `value ${route.question}` : route.question} the distance or the metric? Answer to read the route to ${route.to}`,
      );
      continue;
    }
    const family = [entry.via, ...ways.map((way) => way.reading.entry.via)].find((text) => text);
    const to = route.to === "default" ? (isIpv6(family) ? "::/0" : "0.0.0.0/0") : route.to;
    const words = [...new Set([...route.words, ...entry.words])]
      .sort((a, b) => Number(isWeak(a)) - Number(isWeak(b)))
      .flatMap((word) => partsOfCode(word, context.meanings));
    const read = readWords(words, options);
    // Without a next hop, a word beside a network is only an interface if other routes leave by it.
    const leaves = entry.out !== null && (reading.outIsKnown || exits.has(entry.out));
    const says = entry.via || leaves || read.discard || read.source !== null;
    if (!says) {
      into.fate(at, "not-understood", `the network ${to} without a next hop, an interface or a source`);
      continue;
    }
    const first = ways[0].reading.entry;
    takeRouteFields(
      {
        to,
        via: entry.via ?? "",
        out: entry.out ?? "",
        vrf: route.vrf,
        table: route.table,
        distance: entry.distance || first.distance,
        metric: entry.metric || first.metric,
        words,
        active: read.active === null && silence !== null ? String(silence) : "",
        assumption: route.assumption ?? otherAddress(entry.strange),
      },
      at,
      into,
      options,
    );
  }
}

const isIpv6 = (text: string | null | undefined) => Boolean(text && parseAddress(text)?.family === 6);
