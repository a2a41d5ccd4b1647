import { Collector, type Fate } from "../../facts/index.ts";
import type { TokenRole } from "../../layout.ts";
import { firstLines, type InputFile, type Reader, type ReaderOptions } from "../reader.ts";
import { shapeOfLine } from "./layouts.ts";
import type { LineReading } from "./line.ts";
import type { Question } from "./numbers.ts";
import { TextReading } from "./reading.ts";
import { tokensOf } from "./tokens.ts";

/** A text with the role of each token, for review and correction. */
export interface ColouredTable {
  readonly file: string;
  readonly lines: readonly {
    readonly line: number;
    readonly text: string;
    /** The group that the line is of; "" for lines that are not read as rows. */
    readonly shape: string;
    readonly tokens: readonly { readonly start: number; readonly end: number; readonly role: TokenRole }[];
    readonly fate: Fate | null;
    readonly detail: string;
  }[];
  /** The layouts that were recognized, by name. */
  readonly layouts: readonly string[];
  readonly questions: readonly Question[];
}

/** Reads a text and reports each token's role, for at most `most` lines. */
export function colourTable(file: InputFile, options: ReaderOptions, most: number): ColouredTable {
  const into = new Collector("");
  const rows = new Map<number, LineReading>();
  const reading = new TextReading(file, into, options, (line, read) => {
    if (rows.size < most) rows.set(line.no, read);
  });
  const questions = reading.read();
  const fates = new Map(into.fates.map((fate) => [fate.line, fate]));
  return {
    file: file.name,
    lines: reading.lines.slice(0, most).map(({ no, text }) => {
      const row = rows.get(no);
      const { fate = null, detail = "" } = fates.get(no) ?? {};
      return {
        line: no,
        text,
        shape: row ? shapeOfLine(text) : "",
        tokens: row?.tokens.map(({ start, end }, i) => ({ start, end, role: row.entry.roles[i] })) ?? [],
        fate,
        detail,
      };
    }),
    layouts: reading.layouts.map(({ name }) => name),
    questions,
  };
}

/** Any text with addresses. It reads what no other reader recognizes. */
export const anyTable: Reader = {
  kind: "text",
  recognises({ text }) {
    const isTelling = firstLines(text, 400).some((line) =>
      tokensOf(line).some(({ shape }) => shape === "prefix" || shape === "address"),
    );
    return isTelling ? 0.3 : 0;
  },
  read(file, into, options) {
    into.questions.push(...new TextReading(file, into, options).read());
  },
};
