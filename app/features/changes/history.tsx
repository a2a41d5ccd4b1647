import { useState } from "react";
import { Form, Link, useSubmit } from "react-router";
import type { HistoryEntry } from "../../../server/plans.ts";
import { HiddenParams } from "../../plan/hidden-params.tsx";
import { ChangeList } from "../../plan/impact/change-list.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { pageHref } from "../../search/links.ts";
import { clockText } from "../../ui/clock-time.tsx";
import { Confirm } from "../../ui/dialog.tsx";

const kinds = { load: "loaded", edit: "", undo: "undo of", redo: "redo of" };

/** Lines of an edit that are shown before more are asked for. */
const FIRST = 6;

/** Every revision: author, time, reason and changes; any two can be compared, and each can be restored. */
export function History({ history }: { history: HistoryEntry[] }) {
  const { page } = usePlan();
  return (
    <section aria-label="History" className="mt-6 max-w-4xl">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="font-semibold font-sign text-[20px]">History</h2>
        <CompareForm newest={page.newest} approved={page.approved} />
      </div>
      <ol className="mt-1">
        {history.map((entry) => (
          <Entry key={entry.number} entry={entry} />
        ))}
      </ol>
    </section>
  );
}

function CompareForm({ newest, approved }: { newest: number; approved: number }) {
  if (newest === 1) return null;
  return (
    <Form method="get" className="flex items-center gap-2 text-[13px]">
      <HiddenParams but={["from", "to"]} />
      <label htmlFor="compare-from">Compare revision</label>
      <input
        id="compare-from"
        name="from"
        type="number"
        min={1}
        max={newest}
        required
        defaultValue={approved === newest ? newest - 1 : approved}
        className="field w-20 py-0.5"
      />
      <label htmlFor="compare-to">with</label>
      <input
        id="compare-to"
        name="to"
        type="number"
        min={1}
        max={newest}
        required
        defaultValue={newest}
        className="field w-20 py-0.5"
      />
      <button type="submit" className="button">
        Compare
      </button>
    </Form>
  );
}

function Entry({ entry }: { entry: HistoryEntry }) {
  const { page, params } = usePlan();
  const [whole, setWhole] = useState(false);
  const changes = entry.edit?.changes ?? [];
  return (
    <li className="flex gap-4 border-rule border-t py-2">
      <span className="w-10 shrink-0 text-right font-semibold">{entry.number}</span>
      <div className="min-w-0 flex-1">
        <p>
          <span className="text-ink-2">{kinds[entry.kind]} </span>
          {entry.why}
          {entry.number === page.approved && <span className="text-ink-2"> · approved</span>}
          {entry.number !== page.revision && (
            <>
              {" · "}
              <Link
                className="name-link text-ink-2"
                to={pageHref(page.planId, "map", params, { revision: String(entry.number) })}
                aria-label={`Open revision ${entry.number}`}
              >
                open
              </Link>
            </>
          )}
          {entry.number !== page.newest && <BringBack revision={entry.number} />}
        </p>
        <ChangeList changes={whole ? changes : changes.slice(0, FIRST)} />
        {!whole && changes.length > FIRST && (
          <button type="button" className="name-link text-[13px] text-ink-2" onClick={() => setWhole(true)}>
            and {changes.length - FIRST} more
          </button>
        )}
      </div>
      <span className="shrink-0 text-right text-[13px] text-ink-2">
        {entry.author}
        <br />
        <time dateTime={new Date(entry.madeAt).toISOString()}>{clockText(entry.madeAt)}</time>
      </span>
    </li>
  );
}

function BringBack({ revision }: { revision: number }) {
  const submit = useSubmit();
  if (!useRights().edits) return null;
  return (
    <>
      {" · "}
      <Confirm
        title={`Restore revision ${revision}?`}
        action="Restore as draft"
        trigger={
          <button type="button" className="name-link text-ink-2" aria-label={`Restore revision ${revision}`}>
            restore
          </button>
        }
        onConfirm={() => submit({ do: "bring-back", revision: String(revision) }, { method: "post" })}
      >
        The plan is set back to revision {revision} by a new edit. The edit needs approval and can be undone.
      </Confirm>
    </>
  );
}
