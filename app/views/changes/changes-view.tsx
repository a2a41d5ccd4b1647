import type { HistoryEntry } from "../../../server/plans.ts";
import type { Known } from "../../data/known.ts";
import { ChangeList } from "../effect/change-list.tsx";

const kinds = { load: "loaded", edit: "", undo: "undo of", redo: "redo of" };

/** Every revision: who made it, when, why, and what it changed. */
export function ChangesView({ page, history }: { page: Known; history: HistoryEntry[] }) {
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="font-semibold font-sign text-[26px]">Changes</h1>
        <a className="name-link" href={`/plans/${page.planId}/document?format=yaml`}>
          This revision as YAML
        </a>
        <a className="name-link" href={`/plans/${page.planId}/document?format=json`}>
          as JSON
        </a>
      </div>
      <ol className="mt-3 max-w-4xl">
        {history.map((entry) => (
          <li key={entry.number} className="flex gap-4 border-rule border-t py-2">
            <span className="w-10 shrink-0 text-right font-semibold">{entry.number}</span>
            <div className="min-w-0 flex-1">
              <p>
                <span className="text-ink-2">{kinds[entry.kind]} </span>
                {entry.why}
              </p>
              {entry.edit && <ChangeList changes={entry.edit.changes} />}
            </div>
            <span className="shrink-0 text-right text-[13px] text-ink-2">
              {entry.author}
              <br />
              <time dateTime={new Date(entry.madeAt).toISOString()}>
                {new Date(entry.madeAt).toISOString().slice(0, 16).replace("T", " ")} UTC
              </time>
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}
