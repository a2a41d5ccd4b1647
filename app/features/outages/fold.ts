import type { Board } from "../../queries/board.ts";

/** A line of the board, down or across: a flow or a failure, or the head of a site's, which folds them. */
export type Line =
  | { readonly kind: "item"; readonly key: string; readonly index: number }
  | {
      readonly kind: "site";
      readonly key: string;
      readonly site: string;
      readonly items: readonly number[];
      readonly folded: boolean;
    };

/** The combined result of the cells of a collapsed group. */
export interface Tally {
  readonly breaks: number;
  readonly changes: number;
}

const itemKey = (index: number) => `item ${index}`;
const siteKey = (site: string) => `site ${site}`;

/** The lines for some items: as given, or with a heading per site whose items are omitted if collapsed. */
export function linesOf(
  items: readonly number[],
  siteOf: (index: number) => string,
  bySite: boolean,
  folded: readonly string[],
): Line[] {
  const line = (index: number): Line => ({ kind: "item", key: itemKey(index), index });
  if (!bySite) return items.map(line);
  const sites = new Map<string, number[]>();
  for (const index of items) {
    const own = sites.get(siteOf(index));
    if (own) own.push(index);
    else sites.set(siteOf(index), [index]);
  }
  return [...sites]
    .sort(([a], [b]) => a.localeCompare(b))
    .flatMap(([site, own]): Line[] => {
      const head: Line = {
        kind: "site",
        key: siteKey(site),
        site,
        items: own,
        folded: folded.includes(site),
      };
      return head.folded ? [head] : [head, ...own.map(line)];
    });
}

/**
 * Counts the cells under every pair of lines of which one is a site's head: those in which a flow does not work,
 * and all that differ from how it is. By the keys of both lines, the row's first.
 */
export function talliesOf(board: Board, rows: readonly Line[], columns: readonly Line[]): Map<string, Tally> {
  const keysOf = (lines: readonly Line[]) => {
    const keys = new Map<number, string[]>();
    const add = (index: number, key: string) => {
      const list = keys.get(index);
      if (list) list.push(key);
      else keys.set(index, [key]);
    };
    for (const line of lines) {
      if (line.kind === "item") add(line.index, line.key);
      else for (const index of line.items) add(index, line.key);
    }
    return keys;
  };
  const [ofRow, ofColumn] = [keysOf(rows), keysOf(columns)];
  const tallies = new Map<string, { breaks: number; changes: number }>();
  for (const [r, c, cell] of board.cells) {
    for (const row of ofRow.get(r) ?? []) {
      for (const column of ofColumn.get(c) ?? []) {
        if (row.startsWith("item") && column.startsWith("item")) continue;
        const key = pairKey(row, column);
        const tally = tallies.get(key) ?? { breaks: 0, changes: 0 };
        tally.changes++;
        if (!cell.fine) tally.breaks++;
        tallies.set(key, tally);
      }
    }
  }
  return tallies;
}

export function pairKey(row: string, column: string): string {
  return `${row} × ${column}`;
}
