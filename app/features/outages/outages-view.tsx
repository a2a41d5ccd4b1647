import { useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { OWN_ENDS_LEFT_OUT } from "../../../core/expectations/index.ts";
import { downOf } from "../../plan/down.ts";
import { NoFlows } from "../../plan/flows/no-flows.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Board } from "../../queries/board.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { keepFile } from "../../ui/keep-file.ts";
import { Shield } from "../../ui/shield.tsx";
import { type Arrangement, arranged, rowsShown } from "./arrange.ts";
import { BoardGrid } from "./board-grid.tsx";
import { Breakers } from "./breakers.tsx";
import { CasePanel } from "./case-panel.tsx";
import { boardCsv, boardJson } from "./exports.ts";
import { linesOf } from "./fold.ts";
import { statusText, useSweep } from "./sweep.ts";

const depths = [
  { depth: 1, text: "One failure" },
  { depth: 2, text: "Two" },
  { depth: 3, text: "Three" },
] as const;

/** Which gateway carries when something fails: the board, the smallest sets that break a flow, and a case opened. */
export function OutagesView() {
  const { page, frame, params } = usePlan();
  const navigate = useNavigate();
  const depth = ([1, 2, 3] as const).find((d) => String(d) === params.get("depth")) ?? 1;
  const [look, setLook] = useState<Arrangement>({
    interfaces: false,
    bySite: false,
    onlyBreaking: false,
    text: "",
  });
  const down = downOf(frame);
  const { sweep, stop, restart } = useSweep(page, frame, down, depth);
  const { board } = sweep;
  const [folded, setFolded] = useState({ rows: new Set<string>(), columns: new Set<string>() });
  const shown = useMemo(
    () => (board ? { rows: rowsShown(board, look.text), columns: arranged(board, look) } : null),
    [board, look],
  );
  const rows = useMemo(
    () => (board && shown ? linesOf(shown.rows, (r) => board.rows[r].site, look.bySite, folded.rows) : []),
    [board, shown, look.bySite, folded],
  );
  const columns = useMemo(
    () =>
      board && shown ? linesOf(shown.columns, (c) => board.columns[c].site, look.bySite, folded.columns) : [],
    [board, shown, look.bySite, folded],
  );
  const fold = (which: "rows" | "columns", site: string) =>
    setFolded((now) => {
      const sites = new Set(now[which]);
      if (!sites.delete(site)) sites.add(site);
      return { ...now, [which]: sites };
    });
  const anyFolded = folded.rows.size + folded.columns.size > 0;
  const foldAll = () =>
    setFolded(
      anyFolded || !board
        ? { rows: new Set(), columns: new Set() }
        : {
            rows: new Set(board.rows.map((row) => row.site)),
            columns: new Set(board.columns.map((column) => column.site)),
          },
    );
  const chosen = { flow: params.get("case") ?? "", failed: params.getAll("with") };
  const open = (flow: string, failed: string[]) => {
    const next = new URLSearchParams(withParam(params, "case", flow));
    next.delete("with");
    for (const ref of failed) next.append("with", ref);
    navigate(`?${next}`, { preventScrollReset: true });
  };
  const breaking = board?.rows.filter((row) => row.breakers.some((set) => set.length === 1)).length ?? 0;
  const toggle = (key: "interfaces" | "bySite" | "onlyBreaking") =>
    setLook((now) => ({ ...now, [key]: !now[key] }));
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="px-4 pt-3 pb-2">
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h1 className="font-semibold font-sign text-[26px]">Which gateway carries</h1>
          <p role="status" className="text-ink-2" data-testid="sweep-status">
            {statusText(sweep, depth, shown?.columns.length ?? 0)}
          </p>
          <ul aria-label="Gateways" className="ml-auto flex flex-wrap gap-3">
            {frame.gateways.slice(0, 8).map((gateway, g) => (
              <li key={gateway.id} className="flex items-center gap-1">
                <Shield gateway={g} label={gateway.label} size={20} />
                {gateway.label}
              </li>
            ))}
          </ul>
        </div>
        <div className="mt-2 flex flex-wrap items-center gap-2">
          {depths.map((entry) => (
            <Link
              key={entry.depth}
              to={withParam(params, "depth", entry.depth === 1 ? null : String(entry.depth))}
              aria-current={entry.depth === depth ? "true" : undefined}
              className={`button ${entry.depth === depth ? "button-chosen" : ""}`}
            >
              {entry.text}
            </Link>
          ))}
          {sweep.state === "running" && (
            <button type="button" className="button" onClick={stop}>
              Stop
            </button>
          )}
          {(sweep.state === "stopped" || sweep.state === "failed") && (
            <button type="button" className="button" onClick={restart}>
              Start again
            </button>
          )}
          <span aria-hidden="true" className="h-5 border-rule border-l" />
          {(
            [
              ["bySite", "By site"],
              ["onlyBreaking", "Only what breaks"],
              ["interfaces", "Interfaces too"],
            ] as const
          ).map(([key, text]) => (
            <button
              key={key}
              type="button"
              aria-pressed={look[key]}
              className={`button ${look[key] ? "button-chosen" : ""}`}
              onClick={() => toggle(key)}
            >
              {text}
            </button>
          ))}
          {look.bySite && (
            <button type="button" className="button" onClick={foldAll}>
              {anyFolded ? "Unfold all" : "Fold all"}
            </button>
          )}
          <label htmlFor="board-filter" className="sr-only">
            Filter flows and failures
          </label>
          <input
            id="board-filter"
            value={look.text}
            onChange={(event) => setLook((now) => ({ ...now, text: event.target.value }))}
            placeholder="a flow, a link, a device"
            className="field w-48"
            autoComplete="off"
          />
          <Link className="button" to={pageHref(page.planId, "time", params)}>
            In time
          </Link>
          <Link className="button" to={pageHref(page.planId, "report", params)}>
            Report
          </Link>
          {board && (
            <>
              <button
                type="button"
                className="button"
                onClick={() => keepFile("board.csv", boardCsv(board, frame), "text/csv")}
              >
                As CSV
              </button>
              <button
                type="button"
                className="button"
                onClick={() => keepFile("board.json", boardJson(board, frame), "application/json")}
              >
                As JSON
              </button>
            </>
          )}
          {board && board.rows.length > 0 && (
            <p className="ml-auto text-ink-2">
              {breaking === 0
                ? "Every flow survives every single failure"
                : `${breaking} of ${board.rows.length} flows do not survive every single failure`}
              , {OWN_ENDS_LEFT_OUT}.
            </p>
          )}
        </div>
      </div>
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
          cell={cellOf(board, chosen)}
        />
      )}
    </div>
  );
}

function cellOf(board: Board | null, chosen: { flow: string; failed: string[] }) {
  if (!board) return null;
  const r = board.rows.findIndex((row) => row.flow === chosen.flow);
  const key = chosen.failed.join(" ");
  const c = board.columns.findIndex((column) => column.failed.join(" ") === key);
  return board.cells.find(([row, column]) => row === r && column === c)?.[2] ?? null;
}
