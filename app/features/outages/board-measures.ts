import type { Board, BoardCell } from "../../queries/board.ts";
import type { Line, Tally } from "./fold.ts";

/** Widths and heights of the board, in pixels. */
export const NAME = 250;
export const NOMINAL = 88;
export const CELL = 88;
export const ROW = 34;
export const HEAD = 76;

/** What every line of the board is drawn from. */
export interface Grid {
  readonly board: Board;
  readonly columns: readonly Line[];
  /** By the positions of flow and failure. */
  readonly cells: ReadonlyMap<string, BoardCell>;
  readonly tallies: ReadonlyMap<string, Tally>;
  readonly chosen: { flow: string; failed: string[] };
  readonly onOpen: (flow: string, failed: string[]) => void;
  readonly onFold: (which: "rows" | "columns", site: string) => void;
}
