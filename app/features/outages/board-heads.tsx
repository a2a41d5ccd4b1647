import type { VirtualItem } from "@tanstack/react-virtual";
import { Tip } from "../../ui/tooltip.tsx";
import { namesOf } from "./arrange.ts";
import { CELL, type Grid, HEAD, NAME, NOMINAL } from "./board-measures.ts";
import { FoldButton } from "./fold-button.tsx";

/** The heads of the columns: which failure stands in each, or which site's. */
export function BoardHeads({ grid, inSight }: { grid: Grid; inSight: readonly VirtualItem[] }) {
  return (
    <div role="row" aria-rowindex={1} className="sticky top-0 z-[3] bg-panel" style={{ height: HEAD }}>
      <div
        className="sticky left-0 z-[1] inline-flex items-end border-rule border-r border-b bg-panel"
        style={{ width: NAME + NOMINAL, height: HEAD }}
      >
        <span
          role="columnheader"
          aria-colindex={1}
          className="px-2 pb-1 font-semibold"
          style={{ width: NAME }}
        >
          Flow
          <span className="float-right font-normal text-[13px] text-ink-2">maximum outage</span>
        </span>
        <span role="columnheader" aria-colindex={2} className="px-2 pb-1 font-semibold text-[13px]">
          no failures
        </span>
      </div>
      {inSight.map((item) => (
        <ColumnHead key={grid.columns[item.index].key} grid={grid} item={item} />
      ))}
    </div>
  );
}

function ColumnHead({ grid, item }: { grid: Grid; item: VirtualItem }) {
  const line = grid.columns[item.index];
  const place = { left: NAME + NOMINAL + item.start, width: CELL, height: HEAD };
  if (line.kind === "site") {
    return (
      <div
        role="columnheader"
        aria-colindex={item.index + 3}
        className="absolute bottom-0 flex flex-col justify-end border-rule border-r border-b bg-sunk px-1 pb-1"
        style={place}
      >
        <FoldButton line={line} what="failures" onFold={(site) => grid.onFold("columns", site)} />
      </div>
    );
  }
  const column = grid.board.columns[line.index];
  return (
    <Tip
      text={`${namesOf(column)}: ${column.breaks} flows break, ${column.changes} change${column.crowded.map((text) => `; ${text}`).join("")}`}
    >
      <div
        role="columnheader"
        aria-colindex={item.index + 3}
        className="absolute bottom-0 flex flex-col justify-end overflow-hidden border-rule border-r border-b px-1.5 pb-1 font-semibold text-[12px] leading-[14px]"
        style={place}
      >
        {column.site && <span className="truncate font-normal text-ink-2">{column.site}</span>}
        <span className="line-clamp-4 break-words">{namesOf(column)}</span>
        {column.crowded.length > 0 && (
          <span className="truncate font-normal text-stop" data-crowded="">
            lacks capacity
          </span>
        )}
      </div>
    </Tip>
  );
}
