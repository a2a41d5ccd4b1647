import { Form, Link, useActionData } from "react-router";
import type { ListedChange } from "../../../server/changes/changes.ts";
import type { HistoryEntry } from "../../../server/plans.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { pageHref } from "../../search/links.ts";
import { clockText } from "../../ui/clock-time.tsx";
import { Compare } from "./compare.tsx";
import { Draft } from "./draft.tsx";
import { History } from "./history.tsx";
import { stateWords } from "./state-words.ts";

interface ChangesViewProps {
  history: HistoryEntry[];
  changes: ListedChange[];
  fourEyes: boolean;
}

/** Drafted edits, the changes made from drafts, a comparison of any two revisions, and all revisions. */
export function ChangesView({ history, changes, fourEyes }: ChangesViewProps) {
  const { page, params } = usePlan();
  const error = useActionData<{ error: string }>()?.error;
  const { edits } = useRights();
  const comparing = params.has("from") && params.has("to");
  const file = (format: string) =>
    `/plans/${page.planId}/document?format=${format}&revision=${page.revision}`;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="font-semibold font-sign text-[26px]">Changes</h1>
        <a className="name-link" href={file("yaml")}>
          Export revision as YAML
        </a>
        <a className="name-link" href={file("json")}>
          as JSON
        </a>
        {edits && (
          <Link className="name-link" to={pageHref(page.planId, "changes/templates", params)}>
            Device templates
          </Link>
        )}
      </div>
      {error && (
        <p role="alert" className="mt-2 max-w-4xl border-2 border-stop bg-panel p-2">
          Not saved: {error}.
        </p>
      )}
      {comparing ? <Compare /> : <Draft fourEyes={fourEyes} history={history} />}
      <ChangeTable changes={changes} />
      <FourEyes on={fourEyes} />
      <History history={history} />
    </div>
  );
}

/** The changes of a plan, each with its state. */
function ChangeTable({ changes }: { changes: ListedChange[] }) {
  const { planId, params } = usePlan();
  if (changes.length === 0) return null;
  return (
    <section aria-label="Proposed changes" className="mt-6">
      <h2 className="font-semibold font-sign text-[20px]">Proposed changes</h2>
      <table className="mt-1 w-full max-w-4xl text-left">
        <thead className="text-[13px] text-ink-2">
          <tr>
            <th className="pr-3 font-medium">change</th>
            <th className="pr-3 font-medium">title</th>
            <th className="pr-3 font-medium">state</th>
            <th className="pr-3 font-medium">window</th>
            <th className="font-medium">proposed by</th>
          </tr>
        </thead>
        <tbody>
          {changes.map((change) => (
            <tr key={change.number} className="border-rule border-t">
              <td className="pr-3 font-semibold">{change.number}</td>
              <td className="py-1 pr-3">
                <Link
                  className="name-link font-medium"
                  to={pageHref(planId, `changes/${change.number}`, params)}
                >
                  {change.title}
                </Link>
                <span className="text-[13px] text-ink-2">
                  {" "}
                  {change.reference && `${change.reference} · `}revision {change.base} to {change.draft}
                </span>
              </td>
              <td className="pr-3">{stateWords[change.state]}</td>
              <td className="pr-3 text-[13px]">{change.windowFrom ? clockText(change.windowFrom) : ""}</td>
              <td className="text-[13px] text-ink-2">{change.author}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Whether approval requires a second person. */
function FourEyes({ on }: { on: boolean }) {
  const { approves, administers } = useRights();
  return (
    <Form method="post" className="mt-3 flex flex-wrap items-center gap-3 text-[13px] text-ink-2">
      <input type="hidden" name="do" value="four-eyes" />
      <input type="hidden" name="on" value={on ? "no" : "yes"} />
      <span>
        {on
          ? "The approver of a change must not be one of its authors."
          : "Authors may approve their own changes."}
      </span>
      {(on ? administers : approves) && (
        <button type="submit" className="button">
          {on ? "Allow authors to approve" : "Require a second approver"}
        </button>
      )}
    </Form>
  );
}
