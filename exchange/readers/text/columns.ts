import type { Token } from "./tokens.ts";
import { MAX_PHRASE, plain, type Role, roleOf } from "./vocabulary.ts";

export interface Column {
  readonly role: Role;
  /** The heading, "" for a column without one. */
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

interface Cell {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/** The cell separator of a line: bars, tabs, semicolons, commas; null for spaces. */
export function separatorOf(line: string): string | null {
  return ["|", "\t", ";", ","].find((separator) => line.split(separator).length > 2) ?? null;
}

/** The cells of a line and their places. */
export function cellsOf(line: string, separator: string): Cell[] {
  const cells: Cell[] = [];
  let start = 0;
  for (const cell of line.split(separator)) {
    cells.push({ text: cell.trim().replace(/^"(.*)"$/, "$1"), start, end: start + cell.length });
    start += cell.length + 1;
  }
  // Bars stand around a line too; what separates cells is between them.
  return separator === "|"
    ? cells.filter(({ text }, i) => text !== "" || (i > 0 && i < cells.length - 1))
    : cells;
}

/** The headings of a line without separators: phrases that are known, else what two spaces divide, else words. */
function headingsOf(line: string): Cell[] {
  const cells: Cell[] = [];
  for (const chunk of line.matchAll(/\S+(?: \S+)*/g)) {
    if (roleOf(chunk[0])) {
      cells.push({ text: chunk[0], start: chunk.index, end: chunk.index + chunk[0].length });
      continue;
    }
    const words = [...chunk[0].matchAll(/\S+/g)];
    for (let i = 0; i < words.length; ) {
      let count = Math.min(MAX_PHRASE, words.length - i);
      const phrase = (n: number) =>
        words
          .slice(i, i + n)
          .map(([word]) => word)
          .join(" ");
      while (count > 1 && roleOf(phrase(count)) === null) count--;
      const [first, last] = [words[i], words[i + count - 1]];
      const start = chunk.index + first.index;
      cells.push({ text: phrase(count), start, end: chunk.index + last.index + last[0].length });
      i += count;
    }
  }
  return cells;
}

/** Neighboring words of one role are one heading, such as "Network Destination". */
function joinedHeadings(cells: readonly Cell[]): Cell[] {
  const joined: Cell[] = [];
  for (const cell of cells) {
    const before = joined.at(-1);
    const role = roleOf(cell.text);
    if (before && role !== null && role === roleOf(before.text) && cell.start - before.end === 1)
      joined[joined.length - 1] = { text: before.text, start: before.start, end: cell.end };
    else joined.push(cell);
  }
  return joined;
}

/** Words that headings never consist of. */
const PROSE = /^(?:the|and|is|are|this|that|has|have|was|with|we|you|please|will|not|be)$/;

/** The columns below a line of headings; null for other lines: half of its headings must be known, one a network. */
export function columnsOf(line: string): Column[] | null {
  if (line.length > 1000 || /\d\.\d{1,3}\.\d|::|\/\d/.test(line)) return null;
  const separator = separatorOf(line);
  const cells = separator ? cellsOf(line, separator) : joinedHeadings(headingsOf(line));
  if (cells.some(({ text }) => PROSE.test(plain(text)))) return null;
  const roles = cells.map(({ text }) => roleOf(text.replace(/^[*"'([]{1,3}/, "").replace(/[*"')\]]$/, "")));
  const known = roles.filter((role) => role !== null);
  const networks = roles.filter((role) => role === "to" || role === "address");
  if (known.length < 2 || known.length * 2 < roles.length || networks.length === 0 || new Set(known).size < 2)
    return null;
  const hasOut = roles.includes("out");
  return cells.map(({ text, start, end }, i) => {
    const role = roles[i];
    // In a list of addresses, the name and the port are the interface's.
    const isName =
      !hasOut &&
      role === "ignored" &&
      /^(?:name|nombre|nome|nom)$/.test(plain(text)) &&
      !roles.includes("to");
    const isSecondTarget = role === "to" && roles.indexOf("to") !== i;
    return { role: isName ? "out" : isSecondTarget ? "ignored" : (role ?? "open"), name: text, start, end };
  });
}

const fitting: Readonly<Record<Role, RegExp>> = {
  to: /prefix|address|mask|length/,
  address: /prefix|address|mask|length/,
  mask: /mask|length|number|address/,
  via: /address|mask|word|symbol|prefix/,
  out: /word|symbol|duration|hardware|address/,
  distance: /number|pair|symbol/,
  metric: /number|pair|symbol/,
  pair: /pair|number|symbol/,
  word: /word|symbol|number/,
  active: /word|symbol|number/,
  vrf: /word|number|symbol/,
  table: /word|number|symbol/,
  hardware: /hardware|symbol/,
  note: /./,
  ignored: /./,
  open: /./,
};
const MISFIT = 60;
/** Roles whose cells hold several tokens. */
const several = /word|note|ignored|open|to|address|via/;

/**
 * The column of each token of a line, by the places of the headings and by what fits below them: tokens keep their order,
 * so that cells that are blank, shifted or aligned to the right find their column. Null if the line does not fit.
 */
export function placedBelow(tokens: readonly Token[], columns: readonly Column[]): number[] | null {
  const cost = (token: Token, { role, start, end }: Column) => {
    const gap = Math.max(0, start - token.end, token.start - end);
    const misfit = fitting[role].test(token.shape) ? 0 : MISFIT;
    return misfit + Math.min(gap, 50) + (role === "open" || role === "ignored" || role === "note" ? 0.5 : 0);
  };
  // best[c]: the least cost with the current token in column c.
  let best = columns.map(() => 0);
  const from: number[][] = [];
  for (const [t, token] of tokens.entries()) {
    const chosen: number[] = [];
    const next: number[] = [];
    let [least, at] = [Number.POSITIVE_INFINITY, -1];
    for (const [c, column] of columns.entries()) {
      const again = t > 0 ? best[c] + (several.test(column.role) ? 1 : 25) : Number.POSITIVE_INFINITY;
      const moved = t > 0 ? least : 0;
      chosen.push(again < moved ? c : at);
      next.push(Math.min(again, moved) + cost(token, column));
      if (best[c] < least) [least, at] = [best[c], c];
    }
    from.push(chosen);
    best = next;
  }
  let column = best.indexOf(Math.min(...best));
  if (best[column] > MISFIT * 0.9 + 12 * tokens.length) return null;
  const places = tokens.map(() => 0);
  for (let t = tokens.length - 1; t >= 0; t--) {
    places[t] = column;
    column = from[t][column];
  }
  return places;
}
