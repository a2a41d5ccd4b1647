import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";
import type { Board, BoardCell } from "../../answers/board.ts";
import type { Frame } from "../../answers/frame.ts";
import { Shield } from "../../ui/shield.tsx";
import { DropSign, endText } from "../../ui/verdict.tsx";
import { namesOf, rowsShown } from "./arrange.ts";
import { gapText } from "./gap.ts";

interface BoardGridProps {
  board: Board;
  columns: number[];
  text: string;
  frame: Frame;
  chosen: { flow: string; failed: string[] };
  onOpen: (flow: string, failed: string[]) => void;
}

const NAME = 250;
const NOMINAL = 88;
const CELL = 88;
const ROW = 34;
const HEAD = 76;

/** Flows down, failures across. Only the cells in sight are drawn; arrow keys move between them. */
export function BoardGrid({ board, columns, text, frame, chosen, onOpen }: BoardGridProps) {
  const frameRef = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => rowsShown(board, text), [board, text]);
  const cells = useMemo(() => {
    const map = new Map<string, BoardCell>();
    for (const [r, c, cell] of board.cells) map.set(`${r} ${c}`, cell);
    return map;
  }, [board]);
  const down = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frameRef.current,
    estimateSize: () => ROW,
    overscan: 6,
    initialRect: { width: 1000, height: 400 },
  });
  const across = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => frameRef.current,
    estimateSize: () => CELL,
    overscan: 4,
    initialRect: { width: 1000, height: 400 },
  });
  const key = chosen.failed.join(" ");
  const onKeyDown = (event: React.KeyboardEvent) => {
    const steps: Record<string, [number, number]> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowRight: [0, 1],
      ArrowLeft: [0, -1],
    };
    const step = steps[event.key];
    const from = (event.target as HTMLElement)
      .closest<HTMLElement>("[data-place]")
      ?.dataset.place?.split(" ");
    if (!step || !from) return;
    event.preventDefault();
    const y = Math.max(0, Math.min(rows.length - 1, Number(from[0]) + step[0]));
    const x = Math.max(0, Math.min(columns.length - 1, Number(from[1]) + step[1]));
    const cell = () => frameRef.current?.querySelector<HTMLElement>(`[data-place="${y} ${x}"]`);
    // At once where it is drawn already, so that no key of a quick series is lost.
    const drawn = cell();
    drawn?.focus({ preventScroll: true });
    down.scrollToIndex(y);
    across.scrollToIndex(x);
    if (!drawn) requestAnimationFrame(() => cell()?.focus());
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the grid's cells are the buttons; arrow keys move between them.
    <div
      ref={frameRef}
      onKeyDown={onKeyDown}
      className="relative max-h-[60vh] min-h-[180px] shrink-0 overflow-auto border border-rule bg-panel"
      data-testid="board"
    >
      <div
        style={{
          width: NAME + NOMINAL + across.getTotalSize(),
          height: HEAD + down.getTotalSize(),
          position: "relative",
        }}
      >
        <div className="sticky top-0 z-[3] bg-panel" style={{ height: HEAD }}>
          <div
            className="sticky left-0 z-[1] inline-flex items-end border-rule border-r border-b bg-panel"
            style={{ width: NAME + NOMINAL, height: HEAD }}
          >
            <span className="px-2 pb-1 font-semibold" style={{ width: NAME }}>
              Flow
              <span className="float-right font-normal text-[13px] text-ink-2">longest gap allowed</span>
            </span>
            <span className="px-2 pb-1 font-semibold text-[13px]">as it is</span>
          </div>
          {across.getVirtualItems().map((item) => {
            const column = board.columns[columns[item.index]];
            return (
              <div
                key={column.failed.join(" ")}
                className="absolute bottom-0 flex flex-col justify-end overflow-hidden border-rule border-r border-b px-1.5 pb-1 font-semibold text-[12px] leading-[14px]"
                style={{ left: NAME + NOMINAL + item.start, width: CELL, height: HEAD }}
                title={`${namesOf(column)}: ${column.breaks} flows break, ${column.changes} change`}
              >
                {column.site && <span className="truncate font-normal text-ink-2">{column.site}</span>}
                <span className="line-clamp-4 break-words">{namesOf(column)}</span>
              </div>
            );
          })}
        </div>
        {down.getVirtualItems().map((line) => {
          const r = rows[line.index];
          const row = board.rows[r];
          return (
            <div
              key={row.flow}
              className="absolute left-0"
              style={{ top: HEAD + line.start, height: ROW, width: NAME + NOMINAL + across.getTotalSize() }}
              data-row={row.flow}
            >
              <div
                className="sticky left-0 z-[2] inline-flex items-center border-rule border-r border-b bg-panel"
                style={{ width: NAME + NOMINAL, height: ROW }}
              >
                <span className="flex items-center px-2" style={{ width: NAME }}>
                  <span className="truncate font-medium" title={row.label}>
                    {row.label}
                  </span>
                  {row.maxOutageMs !== null && (
                    <span className="ml-auto pl-2 text-[13px] text-ink-2">{row.maxOutageMs / 1000} s</span>
                  )}
                </span>
                <span
                  className="flex h-full items-center gap-1 bg-sunk px-1.5 text-[12px] leading-[13px]"
                  style={{ width: NOMINAL }}
                >
                  <CellSign cell={row.nominal} frame={frame} />
                </span>
              </div>
              {across.getVirtualItems().map((item) => {
                const c = columns[item.index];
                const column = board.columns[c];
                const cell = cells.get(`${r} ${c}`) ?? null;
                const isChosen = chosen.flow === row.flow && column.failed.join(" ") === key;
                return (
                  <button
                    key={column.failed.join(" ")}
                    type="button"
                    data-place={`${line.index} ${item.index}`}
                    data-failed={column.failed.join(" ")}
                    tabIndex={line.index === 0 && item.index === 0 ? 0 : -1}
                    onClick={() => onOpen(row.flow, column.failed)}
                    aria-label={cellWords(row.label, namesOf(column), cell, frame)}
                    className={`absolute top-0 flex items-center gap-1 overflow-hidden border-rule border-r border-b px-1.5 text-left text-[12px] leading-[13px] ${looksOf(cell)} ${isChosen ? "outline-2 outline-ink -outline-offset-2" : ""}`}
                    style={{ left: NAME + NOMINAL + item.start, width: CELL, height: ROW }}
                  >
                    {cell ? (
                      <CellSign cell={cell} frame={frame} gap />
                    ) : (
                      <span
                        className={`flex items-center gap-1 ${row.nominal.verdict === "works" && row.nominal.carriers.length > 0 ? "opacity-30" : "font-normal text-ink-2"}`}
                      >
                        <CellSign cell={row.nominal} frame={frame} />
                      </span>
                    )}
                  </button>
                );
              })}
            </div>
          );
        })}
      </div>
    </div>
  );
}

function looksOf(cell: BoardCell | null): string {
  if (!cell) return "hover:bg-sunk";
  if (cell.verdict !== "works") return "bg-stop-soft text-stop font-medium";
  return cell.broken.length ? "bg-chosen-soft font-medium" : "hover:bg-sunk font-medium";
}

/** What stands in a cell: the carriers' shields with the gap, or the sign of what went wrong. */
function CellSign({ cell, frame, gap }: { cell: BoardCell; frame: Frame; gap?: boolean }) {
  if (cell.verdict !== "works") {
    return (
      <>
        <DropSign code={cell.ended ?? ""} size={14} />
        <span>{cell.verdict === "one-way" ? "no way back" : endText(cell.ended ?? "")}</span>
      </>
    );
  }
  return (
    <>
      {cell.carriers.map((g) => (
        <Shield key={g} gateway={g} label={frame.gateways[g]?.label ?? ""} size={20} />
      ))}
      {cell.carriers.length === 0 && <span>works</span>}
      {gap && <span>{gapText(cell.outageMs)}</span>}
      {cell.broken.length > 0 && (
        <span aria-hidden="true" className="font-semibold text-stop" title={cell.broken.join("; ")}>
          !
        </span>
      )}
    </>
  );
}

function cellWords(flow: string, failed: string, cell: BoardCell | null, frame: Frame): string {
  if (!cell) return `${flow}, ${failed} down: as it is`;
  const carriers = cell.carriers.map((g) => frame.gateways[g]?.label).join(", ");
  const what =
    cell.verdict === "works"
      ? `${carriers ? `${carriers} carries` : "works"}, gap ${gapText(cell.outageMs) || "none"}`
      : cell.verdict === "one-way"
        ? "no way back"
        : endText(cell.ended ?? "");
  return `${flow}, ${failed} down: ${what}${cell.broken.length ? `; ${cell.broken.join("; ")}` : ""}`;
}
