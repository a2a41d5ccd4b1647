import { formatPlanError } from "../core/plan/index.ts";
import { deviceByName } from "./device-names.ts";
import { Collector, type LineFate } from "./facts/index.ts";
import type { Layout, TokenRole } from "./layout.ts";
import { readPlanText } from "./plan-text.ts";
import { csvLists, rowsOf } from "./readers/csv-lists.ts";
import { type InputFile, Meanings, type ReaderOptions, readerOf } from "./readers/index.ts";
import { firstLines } from "./readers/reader.ts";
import { withoutControl } from "./readers/text/clean.ts";
import type { Question } from "./readers/text/numbers.ts";
import { isPlanDocument, type PlanInput } from "./rebuild/plan-documents.ts";
import { sectionsOf } from "./sections.ts";

/** The most errors reported for a document. */
const MAX_ERRORS = 20;

/** A cable of a list: its two ends. */
export interface Cable {
  readonly a: { device: string; interface: string };
  readonly b: { device: string; interface: string };
}

/** The content of files: facts of each device, cables, and the result of every line. */
export interface Readings {
  readonly devices: readonly Collector[];
  readonly cables: readonly Cable[];
  /** Plan documents among the files. */
  readonly plans?: readonly PlanInput[];
  readonly lines: readonly LineFate[];
  /** Words without a known meaning, with their number of lines. */
  readonly openWords: ReadonlyMap<string, number>;
  /** Questions about columns that texts leave open. */
  readonly questions?: readonly Question[];
}

export interface ReadingOptions {
  /** The device of the files that do not name one. */
  readonly device?: string;
  /** What words and codes mean. */
  readonly words?: Iterable<readonly [string, string]>;
  /** Layouts of text tables that were taught. */
  readonly layouts?: readonly Layout[];
  /** Answers to questions: roles by the names of columns. */
  readonly roles?: ReadonlyMap<string, TokenRole>;
}

/** Whether a text describes interfaces: route tables need those first. */
const holdsInterfaces = (text: string) =>
  ['"ifname"', "ietf-interfaces", '"interface":', '"interface" :'].some((mark) => text.includes(mark)) ||
  firstLines(text, 400).some((line) => /^\d{1,9}: \S+: </.test(line));

/** Reads files, each with the reader that recognizes it; unreadable files and lines are reported and stop nothing. */
export function readFiles(files: readonly InputFile[], options: ReadingOptions = {}): Readings {
  const reading = new Reading(
    { meanings: new Meanings(options.words), layouts: options.layouts, roles: options.roles },
    options.device,
  );
  // Interfaces before the routes that name them.
  const later: InputFile[] = [];
  for (const file of files) {
    if (holdsInterfaces(file.text)) reading.take(file);
    else later.push(file);
  }
  for (const file of later) reading.take(file);
  return reading.done();
}

class Reading {
  private readonly collectors = new Map<string, Collector>();
  private readonly cables: Cable[] = [];
  private readonly plans: PlanInput[] = [];
  private readonly lines: LineFate[] = [];

  constructor(
    private readonly options: ReaderOptions,
    private readonly device: string | undefined,
  ) {}

  take(given: InputFile) {
    for (const file of sectionsOf({ ...given, text: withoutControl(given.text) })) this.takePart(file);
  }

  private takePart(file: InputFile) {
    if (file.text.trim() === "") return;
    if (isPlanDocument(file.text)) return this.takePlan(file);
    const reader = readerOf(file);
    if (!reader) {
      const [first = ""] = file.text.trimStart().split("\n", 1);
      const detail = "unknown format: no addresses and no format that can be read";
      this.lines.push({
        file: file.name,
        line: 1,
        text: first.slice(0, 200),
        fate: "not-understood",
        detail,
      });
      return;
    }
    if (reader === csvLists && csvLists.isOfMany(file.text)) return this.takeListOfMany(file);
    const into = this.collector(this.device ?? file.device ?? deviceByName(file.name));
    const before = into.fates.length;
    reader.read(file, into, this.options);
    // An empty list, say: it has been looked at all the same.
    if (into.fates.length === before)
      into.fate({ file: file.name, line: 1, text: file.text.trim() }, "known", "the file is empty");
  }

  /** A plan document: its errors are reported and stop nothing else. */
  private takePlan({ name, text }: InputFile) {
    const read = readPlanText(text);
    const [first] = text.trimStart().split("\n", 1);
    const at = { file: name, line: 1, text: first.slice(0, 200) };
    if (!read.ok) {
      for (const error of read.errors.slice(0, MAX_ERRORS))
        this.lines.push({ ...at, fate: "not-understood", detail: formatPlanError(error) });
      return;
    }
    const { devices, links } = read.plan;
    this.plans.push({ file: name, plan: read.plan });
    const detail = `a plan document: ${devices.length} devices, ${links.length} links`;
    this.lines.push({ ...at, fate: "taken", detail });
  }

  /** A list whose lines name their devices: each goes to its own; lines with two ends are cables. */
  private takeListOfMany(file: InputFile) {
    const rows = rowsOf(file, (at, detail) => this.lines.push({ ...at, fate: "known", detail }));
    for (const row of rows) {
      const [a, b] = [row.cell("a-device"), row.cell("b-device")];
      if (a !== "" && b !== "") {
        this.cables.push({
          a: { device: a, interface: row.cell("a-interface") },
          b: { device: b, interface: row.cell("b-interface") },
        });
        this.lines.push({ ...row.at, fate: "taken", detail: `a cable from ${a} to ${b}` });
        continue;
      }
      const device = row.cell("device");
      if (device === "") {
        this.lines.push({ ...row.at, fate: "not-understood", detail: "no device name" });
      } else csvLists.readRow(row, this.collector(device), this.options);
    }
  }

  private collector(device: string): Collector {
    const known = this.collectors.get(device);
    if (known) return known;
    const made = new Collector(device);
    this.collectors.set(device, made);
    return made;
  }

  done(): Readings {
    const devices = [...this.collectors.values()];
    const openWords = new Map<string, number>();
    for (const { openWords: own } of devices) {
      for (const [word, count] of own) openWords.set(word, (openWords.get(word) ?? 0) + count);
    }
    const lines = [...this.lines, ...devices.flatMap(({ fates }) => fates)];
    lines.sort((a, b) => (a.file < b.file ? -1 : a.file > b.file ? 1 : a.line - b.line));
    const questions = devices.flatMap((device) => device.questions);
    return { devices, cables: this.cables, plans: this.plans, lines, openWords, questions };
  }
}
