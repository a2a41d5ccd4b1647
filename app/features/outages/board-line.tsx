import type { VirtualItem } from "@tanstack/react-virtual";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Board } from "../../queries/board.ts";
import { Tip } from "../../ui/tooltip.tsx";
import { namesOf } from "./arrange.ts";
import { CellSign, cellWords, looksOf, tallyLooks, tallyText } from "./board-cell.tsx";
import { CELL, type Grid, NAME, NOMINAL, ROW } from "./board-measures.ts";
import { type Line, pairKey } from "./fold.ts";
import { FoldButton, siteName } from "./fold-button.tsx";

interface BoardLineProps {
  grid: Grid;
  line: Line;
  /** Which line it is, from above. */
  at: number;
  top: number;
  width: number;
  /** The columns in sight. */
  inSight: readonly VirtualItem[];
}

/** A row of the board: its name and how it is, then its cells. */
export function BoardLine({ grid, line, at, top, width, inSight }: BoardLineProps) {
  const row = line.kind === "item" ? grid.board.rows[line.index] : null;
  return (
    <div
      role="row"
      aria-rowindex={at + 2}
      className="absolute left-0"
      style={{ top, height: ROW, width }}
      data-row={row?.flow}
      data-line={at}
    >
      <div
        className={`sticky left-0 z-[2] inline-flex items-center border-rule border-r border-b ${row ? "bg-panel" : "bg-sunk"}`}
        style={{ width: NAME + NOMINAL, height: ROW }}
      >
        {line.kind === "site" && (
          <span role="rowheader" aria-colindex={1}>
            <FoldButton line={line} what="flows" onFold={(site) => grid.onFold("rows", site)} />
          </span>
        )}
        {row && <RowName row={row} />}
      </div>
      {inSight.map((item) => {
        const column = grid.columns[item.index];
        const place = {
          "data-place": `${at} ${item.index}`,
          tabIndex: at === 0 && item.index === 0 ? 0 : -1,
        };
        return (
          <div
            key={column.key}
            role="cell"
            aria-colindex={item.index + 3}
            className="absolute top-0"
            style={{ left: NAME + NOMINAL + item.start, width: CELL, height: ROW }}
          >
            {line.kind === "site" || column.kind === "site" ? (
              <SiteCell grid={grid} row={line} column={column} place={place} />
            ) : (
              <Cell grid={grid} r={line.index} c={column.index} place={place} />
            )}
          </div>
        );
      })}
    </div>
  );
}

function RowName({ row }: { row: Board["rows"][number] }) {
  return (
    <>
      <span role="rowheader" aria-colindex={1} className="flex items-center px-2" style={{ width: NAME }}>
        <Tip text={row.label}>
          <span className="truncate font-medium">{row.label}</span>
        </Tip>
        {row.maxOutageMs !== null && (
          <span className="ml-auto pl-2 text-[13px] text-ink-2">{row.maxOutageMs / 1000} s</span>
        )}
      </span>
      <span
        role="cell"
        aria-colindex={2}
        className="flex h-full items-center gap-1 bg-sunk px-1.5 text-[12px] leading-[13px]"
        style={{ width: NOMINAL }}
      >
        <CellSign cell={row.nominal} />
      </span>
    </>
  );
}

interface Placed {
  "data-place": string;
  tabIndex: number;
}

/** The summary of a site's cells; expands the site if it is collapsed. */
function SiteCell({ grid, row, column, place }: { grid: Grid; row: Line; column: Line; place: Placed }) {
  const { board, tallies, onFold } = grid;
  const tally = tallies.get(pairKey(row.key, column.key));
  return (
    <button
      type="button"
      {...place}
      onClick={() => {
        if (row.kind === "site" && row.folded) onFold("rows", row.site);
        if (column.kind === "site" && column.folded) onFold("columns", column.site);
      }}
      aria-label={`${lineName(board, row, "flows")}, ${lineName(board, column, "failures")}: ${tallyText(tally)}`}
      className={`h-full w-full overflow-hidden border-rule border-r border-b px-1.5 text-left text-[12px] ${tallyLooks(tally)}`}
    >
      {tallyText(tally)}
    </button>
  );
}

/** A flow's result under a failure; opens the case. */
function Cell({ grid, r, c, place }: { grid: Grid; r: number; c: number; place: Placed }) {
  const { frame } = usePlan();
  const { board, chosen } = grid;
  const flow = board.rows[r];
  const failure = board.columns[c];
  const cell = grid.cells.get(`${r} ${c}`) ?? null;
  const isChosen = chosen.flow === flow.flow && failure.failed.join(" ") === chosen.failed.join(" ");
  const unbroken = flow.nominal.verdict === "works" && flow.nominal.carriers.length > 0;
  return (
    <button
      type="button"
      {...place}
      data-failed={failure.failed.join(" ")}
      onClick={() => grid.onOpen(flow.flow, failure.failed)}
      aria-label={cellWords(flow.label, namesOf(failure), cell, frame)}
      className={`flex h-full w-full items-center gap-1 overflow-hidden border-rule border-r border-b px-1.5 text-left text-[12px] leading-[13px] ${looksOf(cell)} ${isChosen ? "outline-2 outline-ink -outline-offset-2" : ""}`}
    >
      {cell ? (
        <CellSign cell={cell} gap />
      ) : (
        <span className={`flex items-center gap-1 ${unbroken ? "opacity-30" : "font-normal text-ink-2"}`}>
          <CellSign cell={flow.nominal} />
        </span>
      )}
    </button>
  );
}

function lineName(board: Board, line: Line, what: "flows" | "failures"): string {
  if (line.kind === "site") return `${what} of ${siteName(line.site)}`;
  return what === "flows" ? board.rows[line.index].label : `${namesOf(board.columns[line.index])} down`;
}
