import type { Collector } from "../facts/index.ts";
import type { Layout } from "../layout.ts";
import type { Meanings } from "./meanings.ts";

/** One file, as it was given: its name may hold folders. */
export interface InputFile {
  readonly name: string;
  readonly text: string;
}

/** The first lines of a text that are not empty: what a reader recognises it by, however long it is. */
export function firstLines(text: string, count: number): string[] {
  const lines: string[] = [];
  for (const [raw] of text.matchAll(/[^\n]+/g)) {
    const line = raw.replace(/\r$/, "");
    if (line.trim() !== "") lines.push(line);
    if (lines.length === count) break;
  }
  return lines;
}

/** What a reader is told besides the text. */
export interface ReaderOptions {
  readonly meanings: Meanings;
  /** Layouts of text tables that were taught. */
  readonly layouts?: readonly Layout[];
}

/** Reads one kind of input, recognised by its content, into what is known of its device. Never throws for bad lines. */
export interface Reader {
  readonly kind: string;
  /** How sure it is that the text is its own: 0 for not at all; the surest reads it. */
  recognises(file: InputFile): number;
  read(file: InputFile, into: Collector, options: ReaderOptions): void;
}
