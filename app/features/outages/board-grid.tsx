import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Board, BoardCell } from "../../queries/board.ts";
import { Tip } from "../../ui/tooltip.tsx";
import { namesOf } from "./arrange.ts";
import { CellSign, cellWords, looksOf, tallyLooks, tallyText } from "./board-cell.tsx";
import { type Line, pairKey, talliesOf } from "./fold.ts";

interface BoardGridProps {
  board: Board;
  rows: readonly Line[];
  columns: readonly Line[];
  chosen: { flow: string; failed: string[] };
  onOpen: (flow: string, failed: string[]) => void;
  /** Folds a site's flows or failures, or unfolds them. */
  onFold: (which: "rows" | "columns", site: string) => void;
}

const NAME = 250;
const NOMINAL = 88;
const CELL = 88;
const ROW = 34;
const HEAD = 76;

/** Flows down, failures across. Only the cells in sight are drawn; arrow keys move between them. */
export function BoardGrid({ board, rows, columns, chosen, onOpen, onFold }: BoardGridProps) {
  const { frame } = usePlan();
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
              <span className="float-right font-normal text-[13px] text-ink-2">longest outage allowed</span>
            </span>
            <span className="px-2 pb-1 font-semibold text-[13px]">as it is</span>
          </div>
          {across.getVirtualItems().map((item) => {
            const line = columns[item.index];
            const place = { left: NAME + NOMINAL + item.start, width: CELL, height: HEAD };
            if (line.kind === "site")
              return (
                <div
                  key={line.key}
                  className="absolute bottom-0 flex flex-col justify-end border-rule border-r border-b bg-sunk px-1 pb-1"
                  style={place}
                >
                  <FoldButton line={line} what="failures" onFold={(site) => onFold("columns", site)} />
                </div>
              );
            const column = board.columns[line.index];
            return (
              <Tip
                key={line.key}
                text={`${namesOf(column)}: ${column.breaks} flows break, ${column.changes} change`}
              >
                <div
                  className="absolute bottom-0 flex flex-col justify-end overflow-hidden border-rule border-r border-b px-1.5 pb-1 font-semibold text-[12px] leading-[14px]"
                  style={place}
                >
                  {column.site && <span className="truncate font-normal text-ink-2">{column.site}</span>}
                  <span className="line-clamp-4 break-words">{namesOf(column)}</span>
                </div>
              </Tip>
            );
          })}
        </div>
        {down.getVirtualItems().map((item) => (
          <BoardLine
            key={rows[item.index].key}
            line={rows[item.index]}
            at={item.index}
            top={HEAD + item.start}
            width={NAME + NOMINAL + across.getTotalSize()}
            board={board}
            onFold={onFold}
          >
            {across.getVirtualItems().map((place) => {
              const row = rows[item.index];
              const column = columns[place.index];
              const at = {
                "data-place": `${item.index} ${place.index}`,
                tabIndex: item.index === 0 && place.index === 0 ? 0 : -1,
                style: { left: NAME + NOMINAL + place.start, width: CELL, height: ROW },
              };
              if (row.kind === "site" || column.kind === "site") {
                const tally = tallies.get(pairKey(row.key, column.key));
                return (
                  <button
                    key={column.key}
                    type="button"
                    {...at}
                    onClick={() => {
                      if (row.kind === "site" && row.folded) onFold("rows", row.site);
                      if (column.kind === "site" && column.folded) onFold("columns", column.site);
                    }}
                    aria-label={`${lineName(board, row, "flows")}, ${lineName(board, column, "failures")}: ${tallyText(tally)}`}
                    className={`absolute top-0 overflow-hidden border-rule border-r border-b px-1.5 text-left text-[12px] ${tallyLooks(tally)}`}
                  >
                    {tallyText(tally)}
                  </button>
                );
              }
              const flow = board.rows[row.index];
              const failure = board.columns[column.index];
              const cell = cells.get(`${row.index} ${column.index}`) ?? null;
              const isChosen = chosen.flow === flow.flow && failure.failed.join(" ") === key;
              return (
                <button
                  key={column.key}
                  type="button"
                  {...at}
                  data-failed={failure.failed.join(" ")}
                  onClick={() => onOpen(flow.flow, failure.failed)}
                  aria-label={cellWords(flow.label, namesOf(failure), cell, frame)}
                  className={`absolute top-0 flex items-center gap-1 overflow-hidden border-rule border-r border-b px-1.5 text-left text-[12px] leading-[13px] ${looksOf(cell)} ${isChosen ? "outline-2 outline-ink -outline-offset-2" : ""}`}
                >
                  {cell ? (
                    <CellSign cell={cell} gap />
                  ) : (
                    <span
                      className={`flex items-center gap-1 ${flow.nominal.verdict === "works" && flow.nominal.carriers.length > 0 ? "opacity-30" : "font-normal text-ink-2"}`}
                    >
                      <CellSign cell={flow.nominal} />
                    </span>
                  )}
                </button>
              );
            })}
          </BoardLine>
        ))}
      </div>
    </div>
  );
}

/** A row of the board: its name and how it is, then its cells. */
function BoardLine({
  line,
  at,
  top,
  width,
  board,
  onFold,
  children,
}: {
  line: Line;
  at: number;
  top: number;
  width: number;
  board: Board;
  onFold: BoardGridProps["onFold"];
  children: React.ReactNode;
}) {
  const row = line.kind === "item" ? board.rows[line.index] : null;
  return (
    <div className="absolute left-0" style={{ top, height: ROW, width }} data-row={row?.flow} data-line={at}>
      <div
        className={`sticky left-0 z-[2] inline-flex items-center border-rule border-r border-b ${row ? "bg-panel" : "bg-sunk"}`}
        style={{ width: NAME + NOMINAL, height: ROW }}
      >
        {line.kind === "site" && (
          <FoldButton line={line} what="flows" onFold={(site) => onFold("rows", site)} />
        )}
        {row && (
          <>
            <span className="flex items-center px-2" style={{ width: NAME }}>
              <Tip text={row.label}>
                <span className="truncate font-medium">{row.label}</span>
              </Tip>
              {row.maxOutageMs !== null && (
                <span className="ml-auto pl-2 text-[13px] text-ink-2">{row.maxOutageMs / 1000} s</span>
              )}
            </span>
            <span
              className="flex h-full items-center gap-1 bg-sunk px-1.5 text-[12px] leading-[13px]"
              style={{ width: NOMINAL }}
            >
              <CellSign cell={row.nominal} />
            </span>
          </>
        )}
      </div>
      {children}
    </div>
  );
}

function FoldButton({
  line,
  what,
  onFold,
}: {
  line: Extract<Line, { kind: "site" }>;
  what: string;
  onFold: (site: string) => void;
}) {
  const name = siteName(line.site);
  return (
    <button
      type="button"
      aria-expanded={!line.folded}
      aria-label={`${line.folded ? "Unfold" : "Fold"} ${name}, ${line.items.length} ${what}`}
      onClick={() => onFold(line.site)}
      className="line-clamp-3 px-1 text-left font-semibold text-[13px] leading-4 hover:underline"
    >
      <span aria-hidden="true">{line.folded ? "+" : "−"}</span> {name}{" "}
      <span className="font-normal text-ink-2">{line.items.length}</span>
    </button>
  );
}

function siteName(site: string): string {
  return site === "" ? "between sites" : site;
}

function lineName(board: Board, line: Line, what: "flows" | "failures"): string {
  if (line.kind === "site") return `${what} of ${siteName(line.site)}`;
  return what === "flows" ? board.rows[line.index].label : `${namesOf(board.columns[line.index])} down`;
}
