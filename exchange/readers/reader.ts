import type { Collector } from "../facts/index.ts";
import type { Layout, TokenRole } from "../layout.ts";
import type { Meanings } from "./meanings.ts";

/** One file, as it was given: its name may hold folders. */
export interface InputFile {
  readonly name: string;
  readonly text: string;
  /** The device that it belongs to, if known; else its name decides (`deviceByName`). */
  readonly device?: string;
}

/** Characters of the longest line that is read: no device prints a longer one for people. */
const MAX_LINE_LENGTH = 4000;

/** The first lines of a text that are not empty: what a reader recognises it by, however long it is. */
export function firstLines(text: string, count: number): string[] {
  const lines: string[] = [];
  for (let from = 0; from < text.length && lines.length < count; ) {
    const found = text.indexOf("\n", from);
    const to = found < 0 ? text.length : found;
    const line = withoutReturn(text.slice(from, Math.min(to, from + MAX_LINE_LENGTH)));
    if (line.trim() !== "") lines.push(line);
    from = to + 1;
  }
  return lines;
}

/** The lines of a text. An overlong line is blank here, and reported as not understood. */
export function linesOf({ name, text }: InputFile, into: Collector): string[] {
  return text.split("\n").map((raw, i) => {
    if (raw.length <= MAX_LINE_LENGTH) return withoutReturn(raw);
    const at = { file: name, line: i + 1, text: `${raw.slice(0, 200)} …` };
    into.fate(at, "not-understood", `the line is longer than ${MAX_LINE_LENGTH} characters`);
    return "";
  });
}

const withoutReturn = (line: string) => (line.endsWith("\r") ? line.slice(0, -1) : line);

/** A reader's options. */
export interface ReaderOptions {
  readonly meanings: Meanings;
  /** Layouts of text tables that were taught. */
  readonly layouts?: readonly Layout[];
  /** Answers to questions: roles by the names of columns. */
  readonly roles?: ReadonlyMap<string, TokenRole>;
}

/** Reads one kind of input, recognized by its content, into its device's facts. Never throws for bad lines. */
export interface Reader {
  readonly kind: string;
  /** How sure it is that the text is its own: 0 for not at all; the surest reads it. */
  recognises(file: InputFile): number;
  read(file: InputFile, into: Collector, options: ReaderOptions): void;
}
