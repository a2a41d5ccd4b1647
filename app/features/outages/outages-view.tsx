import { useMemo } from "react";
import { downOf } from "../../plan/down.ts";
import { NoFlows } from "../../plan/flows/no-flows.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Board } from "../../queries/board.ts";
import { withParam } from "../../search/links.ts";
import { arranged, rowsShown } from "./arrange.ts";
import { BoardGrid } from "./board-grid.tsx";
import { BoardHead } from "./board-head.tsx";
import { Breakers } from "./breakers.tsx";
import { CasePanel } from "./case-panel.tsx";
import { linesOf } from "./fold.ts";
import { useSweep } from "./sweep.ts";
import { useBoardLook } from "./use-board-look.ts";

/** Which gateway carries when something fails: the board, the smallest sets that break a flow, and a case opened. */
export function OutagesView() {
  const { page, frame, params } = usePlan();
  const depth = ([1, 2, 3] as const).find((d) => String(d) === params.get("depth")) ?? 1;
  const { look, change, goTo } = useBoardLook();
  const down = downOf(frame);
  const { sweep, stop, restart } = useSweep(page, frame, down, depth);
  const { board } = sweep;
  const shown = useMemo(
    () => (board ? { rows: rowsShown(board, look.text), columns: arranged(board, look) } : null),
    [board, look],
  );
  const rows = useMemo(
    () =>
      board && shown ? linesOf(shown.rows, (r) => board.rows[r].site, look.bySite, look.foldedRows) : [],
    [board, shown, look],
  );
  const columns = useMemo(
    () =>
      board && shown
        ? linesOf(shown.columns, (c) => board.columns[c].site, look.bySite, look.foldedColumns)
        : [],
    [board, shown, look],
  );
  const fold = (which: "rows" | "columns", site: string) => {
    const key = which === "rows" ? "foldedRows" : "foldedColumns";
    const others = look[key].filter((one) => one !== site);
    change({ [key]: others.length < look[key].length ? others : [...others, site] });
  };
  const anyFolded = look.foldedRows.length + look.foldedColumns.length > 0;
  const sitesOf = (items: readonly { site: string }[] = []) => [...new Set(items.map((item) => item.site))];
  const foldAll = () =>
    change({
      foldedRows: anyFolded ? [] : sitesOf(board?.rows),
      foldedColumns: anyFolded ? [] : sitesOf(board?.columns),
    });
  const chosen = { flow: params.get("case") ?? "", failed: params.getAll("with") };
  const column = columnOf(board, chosen.failed);
  const open = (flow: string, failed: string[]) => {
    const next = new URLSearchParams(withParam(params, "case", flow));
    next.delete("with");
    for (const ref of failed) next.append("with", ref);
    goTo(next);
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <BoardHead
        asking={{ sweep, stop, restart, depth, shown: shown?.columns.length ?? 0 }}
        look={look}
        onLook={change}
        anyFolded={anyFolded}
        onFoldAll={foldAll}
      />
      <div className="flex min-h-0 flex-1 flex-col overflow-auto px-4 pb-3">
        {board && board.rows.length === 0 && <NoFlows />}
        {board && board.rows.length > 0 && (
          <BoardGrid
            board={board}
            rows={rows}
            columns={columns}
            onFold={fold}
            chosen={chosen}
            onOpen={open}
          />
        )}
        {board && board.rows.length > 0 && <Breakers board={board} frame={frame} onOpen={open} />}
      </div>
      {chosen.flow !== "" && chosen.failed.length > 0 && (
        <CasePanel
          key={`${chosen.flow} ${chosen.failed.join(" ")}`}
          flow={chosen.flow}
          failed={chosen.failed}
          cell={cellOf(board, chosen.flow, column)}
          crowded={column?.crowded ?? []}
        />
      )}
    </div>
  );
}

function cellOf(board: Board | null, flow: string, column: Board["columns"][number] | undefined) {
  if (!board) return null;
  const r = board.rows.findIndex((row) => row.flow === flow);
  const c = column ? board.columns.indexOf(column) : -1;
  return board.cells.find(([row, at]) => row === r && at === c)?.[2] ?? null;
}

function columnOf(board: Board | null, failed: readonly string[]) {
  const key = failed.join(" ");
  return board?.columns.find((column) => column.failed.join(" ") === key);
}
