import { differencePlans, type Edit, type Plan, type PlanError } from "../../core/plan/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { DeviceFacts, LineFate } from "../../exchange/facts/index.ts";
import type { Layout } from "../../exchange/layout.ts";
import { type InputFile, Meanings, readerOf } from "../../exchange/readers/index.ts";
import { anyTable, type ColouredTable, colourTable } from "../../exchange/readers/tables/table.ts";
import { type Readings, readFiles } from "../../exchange/readings.ts";
import { mergeInto } from "../../exchange/rebuild/merge.ts";
import { type Picture, pictureOf } from "../../exchange/rebuild/picture.ts";
import { type Rebuilt, rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { leftOutFate } from "../../exchange/rebuild/soundly.ts";

/** Tables, and lines of each, that are shown with their roles. */
const MOST_TABLES = 30;
const MOST_LINES = 300;

export interface ExchangeAsked {
  files: InputFile[];
  /** What words mean, as the user said. */
  words: [string, string][];
  /** Devices and links, by their ids in what was read, that are not taken. */
  without: string[];
  /** Layouts of text tables that are known, those that are being taught first. */
  layouts: Layout[];
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
  devices: ReadDevice[];
  links: ReadLink[];
  /** Null where nothing would change, or where it does not fit. */
  edit: Edit | null;
  errors: PlanError[];
}

type Read = ReturnType<typeof readAnew>;
let held: { key: string; read: Read } | null = null;

/** Files are read once for as long as they and what is told of them stay: a tick repeats the merging alone. */
function readOnce(name: string, asked: Pick<ExchangeAsked, "files" | "words" | "layouts">): Read {
  const { files, words, layouts } = asked;
  const key = JSON.stringify([name, files.map((file) => [file.name, digest(file.text)]), words, layouts]);
  if (held?.key !== key) held = { key, read: readAnew(name, asked) };
  return held.read;
}

/** FNV-1a over the units of a text, with its length: it tells texts apart that a page gives one after the other. */
function digest(text: string): string {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return `${text.length} ${hash >>> 0}`;
}

function readAnew(
  name: string,
  { files, words, layouts }: Pick<ExchangeAsked, "files" | "words" | "layouts">,
) {
  const readings = readFiles(files, { words, layouts });
  const options = { meanings: new Meanings(words), layouts };
  const tables = files
    .filter((file) => readerOf(file) === anyTable)
    .slice(0, MOST_TABLES)
    .map((file) => colourTable(file, options, MOST_LINES));
  return { readings, tables, outcome: rebuildPlan(readings, name) };
}

/** Reads files, and works out what they would change in the plan (no file is kept). */
export function readExchange(p: Scenario, { files, words, without, layouts }: ExchangeAsked): ExchangeAnswer {
  const { readings, tables, outcome } = readOnce(p.plan.name, { files, words, layouts });
  const facts = readings.devices.map((device) => ({
    ...device.facts,
    device: device.told ?? device.facts.device,
  }));
  const told = { tables, lines: readings.lines as LineFate[], facts, openWords: [...readings.openWords] };
  if (!outcome.ok) return { ...told, devices: [], links: [], edit: null, errors: outcome.errors };
  const { rebuilt } = outcome;
  const merged = mergeInto(p.plan, withoutThese(rebuilt, without));
  return {
    ...told,
    lines: [...told.lines, ...rebuilt.leftOut.map(leftOutFate)],
    devices: devicesOf(p.plan, rebuilt.plan),
    links: rebuilt.links,
    edit: merged.ok ? editOf(p.plan, merged.plan, readings) : null,
    errors: merged.ok ? [] : merged.errors,
  };
}

function withoutThese(rebuilt: Rebuilt, without: readonly string[]): Rebuilt {
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

function editOf(plan: Plan, merged: Plan, { devices }: Readings): Edit | null {
  const changes = differencePlans(plan, merged);
  if (changes.length === 0) return null;
  const names = devices.map(({ facts }) => facts.device);
  const who = names.length > 3 ? `${names.length} devices` : names.join(", ") || "a list";
  return { label: `Take in what ${who} said`.slice(0, 300), changes };
}

/** The drawing that grows from one table. Null where nobody understands it. */
export function picture(
  _p: Scenario,
  { text, words, layouts }: { text: string; words: [string, string][]; layouts: Layout[] },
): { picture: Picture | null; openWords: [string, number][] } {
  const readings = readFiles([{ name: "table.txt", text }], { words, layouts, device: "this device" });
  const [collector] = readings.devices;
  return { picture: collector ? pictureOf(collector, text) : null, openWords: [...readings.openWords] };
}
