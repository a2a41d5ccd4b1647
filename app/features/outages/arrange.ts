import type { Board, BoardColumn } from "../../queries/board.ts";
import type { BoardLook } from "../../search/board-look.ts";

/** Positions of the visible columns, most disruptive first. */
export function arranged(board: Board, look: BoardLook): number[] {
  const words = look.text.toLowerCase().split(/\s+/).filter(Boolean);
  const rowsMatch = words.length > 0 && board.rows.some((row) => holds(row.label, words));
  const shown = board.columns.flatMap((column, c) => {
    if (!look.interfaces && column.plates.some((plate) => plate.kind === "interface")) return [];
    if (look.onlyBreaking && column.breaks === 0) return [];
    if (words.length > 0 && !rowsMatch && !holds(namesOf(column), words)) return [];
    return [c];
  });
  return shown;
}

/** Positions of the rows that show: all, unless the text names some of them. */
export function rowsShown(board: Board, text: string): number[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = board.rows.flatMap((row, r) => (holds(row.label, words) ? [r] : []));
  return words.length > 0 && found.length > 0 ? found : board.rows.map((_, r) => r);
}

export function namesOf(column: BoardColumn): string {
  return column.plates.map((plate) => plate.label).join(" and ");
}

function holds(text: string, words: readonly string[]): boolean {
  const lower = text.toLowerCase();
  return words.every((word) => lower.includes(word));
}
