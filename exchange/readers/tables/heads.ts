import { type Role, roleOf } from "./vocabulary.ts";

export interface Column {
  readonly role: Role;
  readonly start: number;
  readonly end: number;
}

/** The cell separator of a line: bars, tabs, semicolons; null for spaces. */
export function separatorOf(line: string): string | null {
  return ["|", "\t", ";"].find((separator) => line.split(separator).length > 2) ?? null;
}

/** The cells of a heading and their positions: between bars if present, else words, with known phrases as one. */
export function headCells(line: string): { text: string; start: number; end: number }[] {
  const separator = separatorOf(line);
  if (separator !== null) {
    const cells: { text: string; start: number; end: number }[] = [];
    let start = 0;
    for (const cell of line.split(separator)) {
      cells.push({ text: cell.trim(), start, end: start + cell.length });
      start += cell.length + 1;
    }
    // Bars stand around a line too; what parts cells stands between them alone.
    return separator === "|"
      ? cells.filter(({ text }, i) => text !== "" || (i > 0 && i < cells.length - 1))
      : cells;
  }
  const words = [...line.matchAll(/\S+/g)].map((found) => ({
    text: found[0],
    start: found.index,
    end: found.index + found[0].length,
  }));
  const cells: typeof words = [];
  for (let i = 0; i < words.length; i++) {
    const next = words[i + 1];
    const phrase = next && `${words[i].text} ${next.text}`;
    if (next && phrase && next.start - words[i].end === 1 && roleOf(phrase)) {
      cells.push({ text: phrase, start: words[i].start, end: next.end });
      i++;
    } else cells.push(words[i]);
  }
  return cells;
}

/** The columns that a line heads; null if it is no heading: half of its words must be known headings. */
export function columnsOf(line: string): Column[] | null {
  if (/\d\.\d+\.\d|::/.test(line)) return null;
  const cells = headCells(line);
  const columns = cells.map(({ text, start, end }) => ({ role: roleOf(text), start, end }));
  const known = columns.filter(({ role }) => role !== null);
  const ofAddresses = known.some(({ role }) => role === "to" || role === "address");
  if (known.length < 2 || known.length * 2 < columns.length || !ofAddresses) return null;
  return columns.map(({ role, start, end }) => ({ role: role ?? "open", start, end }));
}

/** The column that a stretch of a line stands in: the one that it overlaps most, else the nearest. */
export function columnAt(columns: readonly Column[], start: number, end: number): number {
  let best = 0;
  let most = Number.NEGATIVE_INFINITY;
  for (const [i, column] of columns.entries()) {
    const from = i === 0 ? 0 : column.start;
    const overlap = Math.min(end, column.end) - Math.max(start, column.start);
    const room = Math.min(end, columns[i + 1]?.start ?? Number.POSITIVE_INFINITY) - Math.max(start, from);
    const score = overlap > 0 ? 1000 + overlap : room;
    if (score > most) {
      most = score;
      best = i;
    }
  }
  return best;
}
