import { boundsText } from "../../../core/words/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { BoardCell } from "../../queries/board.ts";
import type { Frame } from "../../queries/frame.ts";
import { Shield } from "../../ui/shield.tsx";
import { DropSign, flowStateText } from "../../ui/verdict.tsx";
import type { Tally } from "./fold.ts";

export function looksOf(cell: BoardCell | null): string {
  if (!cell) return "hover:bg-sunk";
  if (!cell.fine) return "bg-stop-soft text-stop font-medium";
  return cell.broken.length ? "bg-chosen-soft font-medium" : "hover:bg-sunk font-medium";
}

/** The content of a cell: the carriers' shields with the gap, or the symbol of the failure. */
export function CellSign({ cell, gap }: { cell: BoardCell; gap?: boolean }) {
  const { frame } = usePlan();
  if (cell.arrival === "denied") return <span className="text-ink-2">denied</span>;
  if (cell.arrival || cell.verdict !== "works") {
    return (
      <>
        <DropSign code={cell.ended ?? ""} size={14} />
        <span>
          {flowStateText(cell)}
          {cell.partly && ", in part"}
        </span>
      </>
    );
  }
  return (
    <>
      {cell.carriers.map((g) => (
        <Shield key={g} gateway={g} label={frame.gateways[g]?.label ?? ""} size={20} />
      ))}
      {cell.carriers.length === 0 && <span>works</span>}
      {gap && <span className="whitespace-nowrap">{boundsText(cell.outageMs)}</span>}
      {cell.sessions !== "" && <BrokenSessions />}
      {cell.uncertain && <span>?</span>}
      {cell.broken.length > 0 && (
        <span aria-hidden="true" className="font-semibold text-stop">
          !
        </span>
      )}
    </>
  );
}

/** Established sessions break: a cut line. */
function BrokenSessions() {
  return (
    <svg width="16" height="12" viewBox="0 0 16 12" aria-hidden="true" className="shrink-0">
      <path d="M1 6h5M10 6h5M7 2l-1.5 8M10.5 2L9 10" fill="none" stroke="currentColor" strokeWidth="1.4" />
    </svg>
  );
}

export function cellWords(flow: string, failed: string, cell: BoardCell | null, frame: Frame): string {
  if (!cell) return `${flow}, ${failed} fails: no change`;
  const carriers = cell.carriers.map((g) => frame.gateways[g]?.label).join(", ");
  const what =
    cell.verdict === "works" && !cell.arrival
      ? `${carriers ? `${carriers} carries` : "works"}, gap ${boundsText(cell.outageMs) || "none"}`
      : flowStateText(cell);
  const besides = [
    ...(cell.partly ? ["works on some of its paths"] : []),
    ...(cell.uncertain ? ["the path is not determined"] : []),
    ...(cell.sessions ? [`established sessions are lost: ${cell.sessions}`] : []),
  ].map((text) => `; ${text}`);
  return `${flow}, ${failed} down: ${what}${besides.join("")}${cell.broken.length ? `; ${cell.broken.join("; ")}` : ""}`;
}

/** What the cells under a site's head come to, in a word. */
export function tallyText(tally: Tally | undefined): string {
  if (!tally) return "no change";
  return tally.breaks > 0 ? `${tally.breaks} break` : `${tally.changes} change`;
}

export function tallyLooks(tally: Tally | undefined): string {
  if (!tally) return "bg-sunk text-ink-2";
  return tally.breaks > 0 ? "bg-stop-soft text-stop font-medium" : "bg-sunk font-medium";
}
