import { parseAddress, parseInterfaceAddress } from "../../../core/address/index.ts";

/** A line as a terminal shows it. */
export interface CleanLine {
  /** Its number in the input, from 1. */
  readonly no: number;
  readonly text: string;
  /** Numbers of the lines that continue it because the terminal broke it inside a token. */
  readonly wrapped: readonly number[];
}

/** The narrowest terminal that is assumed to wrap lines. */
const MIN_WIDTH = 60;

/** ECMA-48 control sequences: an escape, and a bracketed command, a title, or a single letter. */
const CONTROL =
  // biome-ignore lint/suspicious/noControlCharactersInRegex: terminals send them.
  /\u001b(?:\[[0-?]{0,30}[ -/]{0,5}[@-~]|\][^\u0007\u001b]{0,200}(?:\u0007|\u001b\\)|[@-Z\\^_])/g;
/** A pager's prompt, and whatever erases it. */
const PAGER = /^\s{0,20}[-<(]{1,5}\s{0,3}more\b[^>)-]{0,20}[->)]{1,6}\s{0,200}/i;

/** A text without control sequences. */
export const withoutControl = (text: string) => (text.includes("\u001b") ? text.replace(CONTROL, "") : text);

/** The text that remains visible after carriage returns and backspaces. */
function visible(raw: string): string {
  if (!/[\r\b]/.test(raw)) return raw;
  let line = "";
  for (const part of raw.split("\r")) {
    let written = "";
    for (const character of part) written = character === "\b" ? written.slice(0, -1) : written + character;
    line = written + line.slice(written.length);
  }
  return line.trimEnd();
}

/** Removes terminal control and pager prompts, and joins lines that were broken inside an address. */
export function cleanLines(raw: readonly string[]): CleanLine[] {
  const texts = raw.map((line) => visible(withoutControl(line)).replace(PAGER, ""));
  const width = texts.reduce((most, text) => Math.max(most, text.length), 0);
  const lines: CleanLine[] = [];
  for (let i = 0; i < texts.length; i++) {
    let text = texts[i];
    const wrapped: number[] = [];
    while (
      i + 1 < texts.length &&
      width >= MIN_WIDTH &&
      texts[i].length === width &&
      isBroken(text, texts[i + 1])
    ) {
      text += texts[++i];
      wrapped.push(i + 1);
    }
    lines.push({ no: i + 1 - wrapped.length, text, wrapped });
  }
  return lines;
}

const isAddress = (text: string) => parseAddress(text) !== null || parseInterfaceAddress(text) !== null;

/** Whether a full line ends in the first part of an address whose rest begins the next line. */
function isBroken(line: string, next: string): boolean {
  const last = line.slice(line.lastIndexOf(" ") + 1);
  const first = /^[0-9a-f.:/]{1,45}/i.exec(next)?.[0] ?? "";
  if (first === "") return false;
  if (!/^[0-9a-f.:/]+$/i.test(last) || !isAddress(last + first)) return false;
  if (isAddress(last)) return /^(?:[./]|:(?!:))/.test(first);
  return !isAddress(first) || /[.:/]$/.test(last);
}
