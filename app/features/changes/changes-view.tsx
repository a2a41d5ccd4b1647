import { Form, Link } from "react-router";
import type { HistoryEntry } from "../../../server/plans.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { ChangeList } from "../../plan/impact/change-list.tsx";
import { ImpactView } from "../../plan/impact/impact-view.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { pageHref } from "../../search/links.ts";
import { clockText } from "../../ui/clock-time.tsx";

const kinds = { load: "loaded", edit: "", undo: "undo of", redo: "redo of" };

/** The draft against what is approved, and every revision: who made it, when, why, and what it changed. */
export function ChangesView({ history }: { history: HistoryEntry[] }) {
  const { page, params } = usePlan();
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="font-semibold font-sign text-[26px]">Changes</h1>
        <a
          className="name-link"
          href={`/plans/${page.planId}/document?format=yaml&revision=${page.revision}`}
        >
          This revision as YAML
        </a>
        <a
          className="name-link"
          href={`/plans/${page.planId}/document?format=json&revision=${page.revision}`}
        >
          as JSON
        </a>
      </div>
      <Draft />
      <h2 className="mt-6 font-semibold font-sign text-[20px]">History</h2>
      <ol className="mt-1 max-w-4xl">
        {history.map((entry) => (
          <li key={entry.number} className="flex gap-4 border-rule border-t py-2">
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
                      open it
                    </Link>
                  </>
                )}
              </p>
              {entry.edit && <ChangeList changes={entry.edit.changes} />}
            </div>
            <span className="shrink-0 text-right text-[13px] text-ink-2">
              {entry.author}
              <br />
              <time dateTime={new Date(entry.madeAt).toISOString()}>{clockText(entry.madeAt)}</time>
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}

/** What has changed since the approved revision, as written and in its consequences. */
function Draft() {
  const { page, frame } = usePlan();
  const down = downOf(frame);
  const open = page.revision !== page.approved;
  const { answer, pending } = useAsking(page, "draft", open ? { down } : null);
  const changed = open && (answer === null || answer.changes.length > 0);
  return (
    <section aria-label="Draft" className="mt-3 max-w-4xl">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="font-semibold font-sign text-[20px]">
          {changed ? `Draft: revision ${page.revision} against ${page.approved}` : "Nothing is drafted"}
        </h2>
        {changed && page.revision === page.newest && (
          <Form method="post">
            <input type="hidden" name="approve" value={page.revision} />
            <button type="submit" className="button button-strong">
              Approve revision {page.revision}
            </button>
          </Form>
        )}
      </div>
      {!changed && (
        <p className="text-ink-2">
          The plan is as revision {page.approved}, which is approved. Write a route or edit the network: what
          then differs from the approved revision, and what follows from it, stands here until it is approved
          in its turn.
        </p>
      )}
      {pending && <p className="text-ink-2">Comparing the two …</p>}
      {answer && answer.changes.length > 0 && (
        <>
          <ChangeList changes={answer.changes} />
          {answer.effect && (
            <div className="mt-2">
              <ImpactView effect={{ ...answer.effect, routes: [] }} findings={answer} />
            </div>
          )}
        </>
      )}
    </section>
  );
}
