import { Link } from "react-router";
import { OWN_ENDS_LEFT_OUT } from "../../../core/expectations/index.ts";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Board } from "../../queries/board.ts";
import type { BoardLook } from "../../search/board-look.ts";
import { withParam } from "../../search/links.ts";
import { Button } from "../../ui/button.tsx";
import { keepFile } from "../../ui/keep-file.ts";
import { Shield } from "../../ui/shield.tsx";
import { boardCsv, boardJson } from "./exports.ts";
import { type Sweep, statusText } from "./sweep.ts";

const depths = [
  { depth: 1, text: "Single" },
  { depth: 2, text: "Double" },
  { depth: 3, text: "Triple" },
] as const;

const switches = [
  ["bySite", "Group by site"],
  ["onlyBreaking", "Breaking only"],
  ["interfaces", "Include interfaces"],
] as const;

interface BoardHeadProps {
  /** The sweep under way, how it is steered, and how many failures are shown of it. */
  asking: { sweep: Sweep; stop: () => void; restart: () => void; depth: number; shown: number };
  look: BoardLook;
  onLook: (change: Partial<BoardLook>) => void;
  anyFolded: boolean;
  onFoldAll: () => void;
}

/** The sweep's progress, the display options and the exports. */
export function BoardHead({ asking, look, onLook, anyFolded, onFoldAll }: BoardHeadProps) {
  const { params, frame } = usePlan();
  const { sweep, stop, restart, depth, shown } = asking;
  const { board } = sweep;
  return (
    <div className="px-4 pt-3 pb-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <p role="status" className="text-ink-2" data-testid="sweep-status">
          {statusText(sweep, depth, shown)}
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
        {sweep.state === "running" && <Button onClick={stop}>Stop</Button>}
        {(sweep.state === "stopped" || sweep.state === "failed") && (
          <Button onClick={restart}>Restart</Button>
        )}
        <span aria-hidden="true" className="h-5 border-rule border-l" />
        {switches.map(([key, text]) => (
          <Button
            key={key}
            aria-pressed={look[key]}
            look={look[key] ? "chosen" : "plain"}
            onClick={() => onLook({ [key]: !look[key] })}
          >
            {text}
          </Button>
        ))}
        {look.bySite && <Button onClick={onFoldAll}>{anyFolded ? "Unfold all" : "Fold all"}</Button>}
        <label htmlFor="board-filter" className="sr-only">
          Filter flows and failures
        </label>
        <input
          id="board-filter"
          value={look.text}
          onChange={(event) => onLook({ text: event.target.value })}
          placeholder="flow, link or device"
          className="field w-48"
          autoComplete="off"
        />
        {board && <Downloads board={board} />}
        {board && board.rows.length > 0 && <Survival board={board} />}
      </div>
      {board?.crowded.map((text) => (
        <p key={text} className="mt-1">
          <strong>Capacity exceeded without failures:</strong> <LinkedSentence text={text} />.
        </p>
      ))}
    </div>
  );
}

function Downloads({ board }: { board: Board }) {
  const { frame } = usePlan();
  return (
    <>
      <Button onClick={() => keepFile("board.csv", boardCsv(board, frame), "text/csv")}>Export CSV</Button>
      <Button onClick={() => keepFile("board.json", boardJson(board, frame), "application/json")}>
        Export JSON
      </Button>
    </>
  );
}

/** How many flows survive any one failure, and which failures do not count. */
function Survival({ board }: { board: Board }) {
  const breaking = board.rows.filter(
    ({ nominal, breakers }) => !nominal.fine || breakers.some((set) => set.length === 1),
  ).length;
  return (
    <p className="ml-auto text-ink-2">
      {breaking === 0
        ? "All flows survive any single failure"
        : `${breaking} of ${board.rows.length} flows do not survive some single failure`}
      , {OWN_ENDS_LEFT_OUT}.
    </p>
  );
}
