import { writeCsv } from "../../../exchange/csv.ts";
import type { Board } from "../../queries/board.ts";
import type { Frame } from "../../queries/frame.ts";

/** The board as rows: each flow with nothing failed, then under every failure that changes it. */
export function boardCsv(board: Board, frame: Frame): string {
  const ids = (carriers: number[]) => carriers.map((g) => frame.gateways[g]?.id ?? "").join(" ");
  const number = (value: number | null) => (value === null ? "" : String(value));
  const line = (flow: string, failed: string[], cell: Board["rows"][number]["nominal"]) => [
    flow,
    failed.join(" "),
    cell.verdict,
    ids(cell.carriers),
    cell.ended ?? "",
    number(cell.outageMs.min),
    number(cell.outageMs.max),
    cell.broken.join("; "),
  ];
  return writeCsv([
    ["flow", "failed", "verdict", "carriers", "ended", "least gap ms", "most gap ms", "violated expectation"],
    ...board.rows.flatMap((row, r) => [
      line(row.flow, [], row.nominal),
      ...board.cells
        .filter(([of]) => of === r)
        .map(([, c, cell]) => line(row.flow, board.columns[c].failed, cell)),
    ]),
  ]);
}

/** The board in the form of the command line's sweep: docs/command-line.md. */
export function boardJson(board: Board, frame: Frame): string {
  const ids = (carriers: number[]) => carriers.map((g) => frame.gateways[g]?.id ?? "");
  const flows = board.rows.map((row, r) => ({
    id: row.flow,
    nominal: { verdict: row.nominal.verdict, carriers: ids(row.nominal.carriers) },
    failures: board.cells
      .filter(([of]) => of === r)
      .map(([, c, cell]) => ({
        failed: board.columns[c].failed,
        verdict: cell.verdict,
        carriers: ids(cell.carriers),
        outageMs: cell.outageMs,
      })),
  }));
  return `${JSON.stringify({ flows }, null, 2)}\n`;
}
