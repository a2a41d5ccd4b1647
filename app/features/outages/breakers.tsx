import type { Board, BoardRow } from "../../queries/board.ts";
import type { Frame } from "../../queries/frame.ts";

interface BreakersProps {
  board: Board;
  frame: Frame;
  onOpen: (flow: string, failed: string[]) => void;
}

/** For each flow the smallest sets of failures that break it, in words. */
export function Breakers({ board, onOpen }: BreakersProps) {
  const labels = new Map(
    board.columns.flatMap((column) => column.failed.map((ref, i) => [ref, column.plates[i].label] as const)),
  );
  const upTo = board.depth === 1 ? "single failures" : `sets of up to ${board.depth} failures`;
  return (
    <section aria-label="Smallest failure sets per flow" className="mt-4">
      <h2 className="font-semibold font-sign text-[18px]">Failures that break each flow</h2>
      <p className="text-ink-2">
        Smallest sets of failures, complete for {upTo}. Interfaces are omitted if their link or device is
        listed.
      </p>
      <ul className="mt-1">
        {board.rows.map((row) => (
          <li key={row.flow} className="border-rule border-t py-1" data-breakers={row.flow}>
            <span className="font-medium">{row.label}: </span>
            <Sets row={row} labels={labels} depth={board.depth} onOpen={onOpen} />
          </li>
        ))}
      </ul>
    </section>
  );
}

const SHOWN = 14;

function Sets({
  row,
  labels,
  depth,
  onOpen,
}: {
  row: BoardRow;
  labels: ReadonlyMap<string, string>;
  depth: number;
  onOpen: BreakersProps["onOpen"];
}) {
  if (!row.nominal.fine)
    return (
      <span className="text-stop">
        {row.nominal.arrival ? "is not denied without any failure" : "fails without any failure"}
      </span>
    );
  const plain = row.breakers.filter((set) => !set.some((ref) => ref.startsWith("interface:")));
  const sets = plain.length > 0 ? plain : row.breakers;
  if (sets.length === 0) {
    return <span>none: survives {depth === 1 ? "any single failure" : `any ${depth} failures at once`}</span>;
  }
  return (
    <>
      {sets.slice(0, SHOWN).map((set, i) => (
        <span key={set.join(" ")}>
          {i > 0 && "; "}
          <button type="button" className="name-link" onClick={() => onOpen(row.flow, set)}>
            {set.map((ref) => labels.get(ref) ?? ref).join(" and ")}
            {set.length === 1 ? " alone" : " together"}
          </button>
        </span>
      ))}
      {sets.length > SHOWN && <span className="text-ink-2">; and {sets.length - SHOWN} more</span>}
    </>
  );
}
