import { useState } from "react";
import { Link, useActionData } from "react-router";
import { stepItem } from "../../../core/plan/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { pageHref } from "../../search/links.ts";
import { ClockTime } from "../../ui/clock-time.tsx";
import { ChooseOne } from "../../ui/toggle-group.tsx";
import { ChangeActions } from "./change-actions.tsx";
import { ChangeRecord } from "./change-record.tsx";
import { OrderNotice } from "./draft.tsx";
import { progressOf } from "./progress.ts";
import { ProgressNotice } from "./progress-notice.tsx";
import type { ChangeShown } from "./shown.ts";
import { stateWords } from "./state-words.ts";
import { forms, type Form as TextForm } from "./texts.tsx";
import { VisitCard } from "./visit-card.tsx";

/** A change: its subject, its approval, and its runbook, which several people follow at once. */
export function ChangeView(shown: ChangeShown) {
  const { change, runbook, seen, own } = shown;
  const { planId, params } = usePlan();
  const error = useActionData<{ error: string | null }>()?.error;
  const [form, setForm] = useState<TextForm>("sentence");
  const standing = progressOf(runbook, change);
  const back = standing.back && change.state === "approved";
  const out = (as: string) => `/plans/${planId}/changes/${change.number}/out?as=${as}`;
  const ticked = new Set(change.ticks.map(({ item }) => item));
  const visits = runbook.visits
    .map((visit, index) => ({ visit, index }))
    // Steps that were never performed need no rollback.
    .filter(({ visit, index }) => !back || visit.steps.some((_, n) => ticked.has(stepItem(index, n))));
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <p className="text-[13px] text-ink-2">
        <Link className="name-link" to={pageHref(planId, "changes", params)}>
          Changes
        </Link>{" "}
        · change {change.number}, revision {change.base} to {change.draft}
      </p>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="font-semibold font-sign text-[26px]">{change.title}</h1>
        <span data-testid="change-state" className="font-semibold">
          {stateWords[change.state]}
        </span>
        <span className="ml-auto flex gap-3 text-[13px]">
          <a className="name-link" href={out("html")} target="_blank" rel="noreferrer">
            Print and export
          </a>
          <a className="name-link" href={out("pdf")} download>
            PDF, A4
          </a>
          <a className="name-link" href={out("md")} download>
            Markdown
          </a>
          <a className="name-link" href={out("json")} download>
            JSON
          </a>
        </span>
      </div>
      <About change={change} authors={shown.authors} />
      {error && (
        <p role="alert" className="mt-2 max-w-4xl border-2 border-stop bg-panel p-2">
          Not saved: {error}.
        </p>
      )}
      <div className="mt-2 max-w-4xl">
        <OrderNotice runbook={runbook} />
      </div>
      <ChangeActions change={change} standing={standing} />
      {change.state === "approved" && <ProgressNotice shown={shown} standing={standing} />}
      <div className="mt-3 flex max-w-4xl flex-wrap items-center gap-3">
        <h2 className="font-semibold font-sign text-[20px]">{back ? "Rollback runbook" : "Runbook"}</h2>
        <ChooseOne
          label="Step format"
          value={form}
          onChange={(value) => setForm(value as TextForm)}
          options={forms.map(({ form: value, text }) => ({ value, text }))}
        />
        {runbook.anyOrder.map((run) => (
          <span key={run.join()} className="text-[13px] text-ink-2">
            Visits {run.join(", ")} in any order (proven).
          </span>
        ))}
      </div>
      <ol className="max-w-4xl">
        {(back ? visits.toReversed() : visits).map(({ visit, index }) => (
          <VisitCard
            key={index}
            visit={visit}
            index={index}
            change={change}
            runbook={runbook}
            live={seen}
            own={own}
            form={form}
            back={back}
            here={standing.next?.visit === index}
          />
        ))}
      </ol>
      <ChangeRecord events={change.events} />
    </div>
  );
}

function About({ change, authors }: Pick<ChangeShown, "change" | "authors">) {
  const rows: [string, React.ReactNode][] = [
    ["Proposed by", change.author],
    ["Edited by", authors.join(", ")],
    ["Reason", change.reason],
    ["Reference", change.reference],
    [
      "Window",
      change.windowFrom && (
        <>
          <ClockTime at={change.windowFrom} />
          {change.windowTo && (
            <>
              {" to "}
              <ClockTime at={change.windowTo} />
            </>
          )}
        </>
      ),
    ],
    ["Notes", change.notes],
  ];
  return (
    <dl className="mt-1 grid max-w-4xl grid-cols-[110px_1fr] gap-x-3 text-[14px]">
      {rows
        .filter(([, value]) => value)
        .map(([term, value]) => (
          <div key={term} className="contents">
            <dt className="text-[13px] text-ink-2">{term}</dt>
            <dd className="whitespace-pre-wrap">{value}</dd>
          </div>
        ))}
    </dl>
  );
}
