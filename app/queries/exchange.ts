import { type Edit, type Plan, type PlanError, sameValue } from "../../core/plan/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { DeviceFacts, LineFate } from "../../exchange/facts/index.ts";
import type { Layout, TokenRole } from "../../exchange/layout.ts";
import { type InputFile, Meanings, readerOf } from "../../exchange/readers/index.ts";
import type { Question } from "../../exchange/readers/text/numbers.ts";
import { anyTable, type ColouredTable, colourTable } from "../../exchange/readers/text/table.ts";
import { readFiles } from "../../exchange/readings.ts";
import { takeReadings } from "../../exchange/rebuild/import-edit.ts";
import { type Picture, pictureOf } from "../../exchange/rebuild/picture.ts";
import { type RebuiltPlan, rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { leftOutFate } from "../../exchange/rebuild/valid-parts.ts";

/** Tables, and lines of each, that are shown with their roles. */
const MAX_TABLES = 30;
const MAX_LINES = 300;

export interface ExchangeAsked {
  files: InputFile[];
  /** What words mean, as the user said. */
  words: [string, string][];
  /** Devices and links that are excluded, by their ids in the input. */
  without: string[];
  /** Layouts of text tables that are known, those that are being taught first. */
  layouts: Layout[];
  /** Answers to questions: columns with their roles. */
  roles: [string, TokenRole][];
}

export interface ReadDevice {
  id: string;
  name: string;
  role: string;
  outline: boolean;
  interfaces: number;
  routes: number;
  /** Whether the plan has it already. */
  known: boolean;
}

export interface ReadLink {
  id: string;
  ends: string[];
  because: string[];
  certain: boolean;
}

/** What files say, and the edit that takes it into the plan. */
export interface ExchangeAnswer {
  lines: LineFate[];
  /** Text tables with the role of each token. */
  tables: ColouredTable[];
  /** As they came, to be kept. */
  facts: DeviceFacts[];
  openWords: [string, number][];
  questions: readonly Question[];
  devices: ReadDevice[];
  links: ReadLink[];
  /** Null if nothing would change, or if it does not apply. */
  edit: Edit | null;
  errors: PlanError[];
}

type ReadInput = Pick<ExchangeAsked, "files" | "words" | "layouts" | "roles">;
let held: { name: string; told: ReadInput; read: ReturnType<typeof readAnew> } | null = null;

/** Files are read once per file and corrections: a checkbox only repeats the merge. */
function readOnce(name: string, told: ReadInput): ReturnType<typeof readAnew> {
  if (!held || held.name !== name || !sameValue(held.told, told))
    held = { name, told, read: readAnew(name, told) };
  return held.read;
}

function readAnew(name: string, { files, words, layouts, roles: answers }: ReadInput) {
  const roles = new Map(answers);
  const readings = readFiles(files, { words, layouts, roles });
  const options = { meanings: new Meanings(words), layouts, roles };
  const tables = files
    .filter((file) => readerOf(file) === anyTable)
    .slice(0, MAX_TABLES)
    .map((file) => colourTable(file, options, MAX_LINES));
  return { readings, tables, outcome: rebuildPlan(readings, name) };
}

/** Reads files and computes the resulting edit of the plan (no file is stored). */
export function readExchange(
  p: Scenario,
  { files, words, without, layouts, roles }: ExchangeAsked,
): ExchangeAnswer {
  const { readings, tables, outcome } = readOnce(p.plan.name, { files, words, layouts, roles });
  const facts = readings.devices.map(({ named }) => named);
  const questions = readings.questions ?? [];
  const openWords = [...readings.openWords];
  const told = { tables, lines: readings.lines as LineFate[], facts, openWords, questions };
  if (!outcome.ok) return { ...told, devices: [], links: [], edit: null, errors: outcome.errors };
  const { rebuilt } = outcome;
  const taking = takeReadings(p.plan, readings, withoutThese(rebuilt, without));
  return {
    ...told,
    lines: [...told.lines, ...rebuilt.leftOut.map(leftOutFate)],
    devices: devicesOf(p.plan, rebuilt.plan),
    links: rebuilt.links,
    edit: taking.ok ? taking.edit : null,
    errors: taking.ok ? [] : taking.errors,
  };
}

function withoutThese(rebuilt: RebuiltPlan, without: readonly string[]): RebuiltPlan {
  const left = new Set(without);
  const kept = (end: string) => !left.has(`device:${end.slice(0, end.indexOf("/"))}`);
  const { plan } = rebuilt;
  const devices = plan.devices.filter(({ id }) => !left.has(`device:${id}`));
  const links = plan.links
    .filter(({ id }) => !left.has(`link:${id}`))
    .map((link) => ({ ...link, ends: link.ends.filter(kept) }))
    .filter(({ ends }) => ends.length > 0);
  return { ...rebuilt, plan: { ...plan, devices, links } };
}

function devicesOf(plan: Plan, read: Plan): ReadDevice[] {
  const known = new Set(plan.devices.map(({ id }) => id));
  return read.devices.map(({ id, label, role, outline, interfaces, routes, learned }) => ({
    id,
    name: label ?? id,
    role,
    outline: outline ?? false,
    interfaces: interfaces.length,
    routes: routes.length + learned.length,
    known: known.has(id),
  }));
}

/** The drawing that grows from one table. Null if the table cannot be read. */
export function picture(
  _p: Scenario,
  { text, words, layouts }: { text: string; words: [string, string][]; layouts: Layout[] },
): { picture: Picture | null; openWords: [string, number][] } {
  const readings = readFiles([{ name: "table.txt", text }], { words, layouts, device: "this device" });
  const [collector] = readings.devices;
  return { picture: collector ? pictureOf(collector, text) : null, openWords: [...readings.openWords] };
}
