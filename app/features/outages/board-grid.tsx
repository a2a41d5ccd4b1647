import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";
import type { Board, BoardCell } from "../../queries/board.ts";
import { BoardHeads } from "./board-heads.tsx";
import { BoardLine } from "./board-line.tsx";
import { CELL, type Grid, HEAD, NAME, NOMINAL, ROW } from "./board-measures.ts";
import { type Line, talliesOf } from "./fold.ts";

interface BoardGridProps {
  board: Board;
  rows: readonly Line[];
  columns: readonly Line[];
  chosen: { flow: string; failed: string[] };
  onOpen: (flow: string, failed: string[]) => void;
  /** Folds a site's flows or failures, or unfolds them. */
  onFold: (which: "rows" | "columns", site: string) => void;
}

const steps: Record<string, [number, number]> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
};

/** Flows down, failures across. Only the cells in sight are drawn; arrow keys move between them. */
export function BoardGrid({ board, rows, columns, chosen, onOpen, onFold }: BoardGridProps) {
  const frameRef = useRef<HTMLDivElement>(null);
  const tallies = useMemo(() => talliesOf(board, rows, columns), [board, rows, columns]);
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
  const onKeyDown = (event: React.KeyboardEvent) => {
    const step = steps[event.key];
    const from = (event.target as HTMLElement)
      .closest<HTMLElement>("[data-place]")
      ?.dataset.place?.split(" ");
    if (!step || !from) return;
    event.preventDefault();
    const y = Math.max(0, Math.min(rows.length - 1, Number(from[0]) + step[0]));
    const x = Math.max(0, Math.min(columns.length - 1, Number(from[1]) + step[1]));
    const cell = () => frameRef.current?.querySelector<HTMLElement>(`[data-place="${y} ${x}"]`);
    // Immediately if it is drawn already, so that no key of a quick series is lost.
    const drawn = cell();
    drawn?.focus({ preventScroll: true });
    down.scrollToIndex(y);
    across.scrollToIndex(x);
    if (!drawn) requestAnimationFrame(() => cell()?.focus());
  };
  const width = NAME + NOMINAL + across.getTotalSize();
  const inSight = across.getVirtualItems();
  const grid: Grid = { board, columns, cells, tallies, chosen, onOpen, onFold };
  return (
    <div
      role="table"
      aria-label="Failure matrix"
      aria-rowcount={rows.length + 1}
      aria-colcount={columns.length + 2}
      ref={frameRef}
      onKeyDown={onKeyDown}
      className="relative max-h-[60vh] min-h-[180px] shrink-0 overflow-auto border border-rule bg-panel"
      data-testid="board"
    >
      <div style={{ width, height: HEAD + down.getTotalSize(), position: "relative" }}>
        <BoardHeads grid={grid} inSight={inSight} />
        {down.getVirtualItems().map((item) => (
          <BoardLine
            key={rows[item.index].key}
            grid={grid}
            line={rows[item.index]}
            at={item.index}
            top={HEAD + item.start}
            width={width}
            inSight={inSight}
          />
        ))}
      </div>
    </div>
  );
}
