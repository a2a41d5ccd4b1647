import { boundsText } from "../../../core/words/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { BoardCell } from "../../queries/board.ts";
import type { Frame } from "../../queries/frame.ts";
import { Shield } from "../../ui/shield.tsx";
import { DropSign, endText } from "../../ui/verdict.tsx";
import type { Tally } from "./fold.ts";

export function looksOf(cell: BoardCell | null): string {
  if (!cell) return "hover:bg-sunk";
  if (cell.verdict !== "works") return "bg-stop-soft text-stop font-medium";
  return cell.broken.length ? "bg-chosen-soft font-medium" : "hover:bg-sunk font-medium";
}

/** What stands in a cell: the carriers' shields with the gap, or the sign of what went wrong. */
export function CellSign({ cell, gap }: { cell: BoardCell; gap?: boolean }) {
  const { frame } = usePlan();
  if (cell.verdict !== "works") {
    return (
      <>
        <DropSign code={cell.ended ?? ""} size={14} />
        <span>{cell.verdict === "one-way" ? "no return path" : endText(cell.ended ?? "")}</span>
      </>
    );
  }
  return (
    <>
      {cell.carriers.map((g) => (
        <Shield key={g} gateway={g} label={frame.gateways[g]?.label ?? ""} size={20} />
      ))}
      {cell.carriers.length === 0 && <span>works</span>}
      {gap && <span>{boundsText(cell.outageMs)}</span>}
      {cell.broken.length > 0 && (
        <span aria-hidden="true" className="font-semibold text-stop">
          !
        </span>
      )}
    </>
  );
}

export function cellWords(flow: string, failed: string, cell: BoardCell | null, frame: Frame): string {
  if (!cell) return `${flow}, ${failed} down: as it is`;
  const carriers = cell.carriers.map((g) => frame.gateways[g]?.label).join(", ");
  const what =
    cell.verdict === "works"
      ? `${carriers ? `${carriers} carries` : "works"}, gap ${boundsText(cell.outageMs) || "none"}`
      : cell.verdict === "one-way"
        ? "no return path"
        : endText(cell.ended ?? "");
  return `${flow}, ${failed} down: ${what}${cell.broken.length ? `; ${cell.broken.join("; ")}` : ""}`;
}

/** What the cells under a site's head come to, in a word. */
export function tallyText(tally: Tally | undefined): string {
  if (!tally) return "as it is";
  return tally.breaks > 0 ? `${tally.breaks} break` : `${tally.changes} change`;
}

export function tallyLooks(tally: Tally | undefined): string {
  if (!tally) return "bg-sunk text-ink-2";
  return tally.breaks > 0 ? "bg-stop-soft text-stop font-medium" : "bg-sunk font-medium";
}
