import { Form, Link, useNavigation } from "react-router";
import type { PlanSheet } from "../../answers/sheet.ts";
import type { Drawing } from "../../drawing/types.ts";
import { SmallDrawing } from "./small-drawing.tsx";

interface Sheet {
  id: string;
  revision: number;
  changedAt: Date;
  author: string;
  sheet: PlanSheet;
  drawing: Drawing;
}

/** Which plans are there, and are they sound. */
export function PlansView({ sheets, errors }: { sheets: Sheet[]; errors: string[] }) {
  const busy = useNavigation().state !== "idle";
  return (
    <main className="mx-auto max-w-6xl p-6">
      <header className="flex flex-wrap items-center gap-3">
        <svg viewBox="0 0 24 24" width="28" height="28" aria-hidden="true">
          <path d="M4 2v4c0 4 3 6 6 7v9h4v-9c3-1 6-3 6-7V2h-4v4c0 2-2 3-4 3S8 8 8 6V2z" fill="currentColor" />
        </svg>
        <h1 className="font-semibold font-sign text-[28px]">Iron Fork</h1>
        <p className="text-ink-2">Plan routes, and see which gateway carries when something fails.</p>
        <Form method="get" action="/search" className="ml-auto flex gap-2" role="search">
          <input
            name="q"
            aria-label="Search all plans by address"
            placeholder="Search all plans: address or prefix"
            className="field w-64"
          />
          <button type="submit" className="button">
            Search
          </button>
        </Form>
      </header>
      <ul className="mt-6 grid gap-4 md:grid-cols-2">
        {sheets.map((entry) => (
          <SheetCard key={entry.id} entry={entry} />
        ))}
      </ul>
      {sheets.length === 0 && (
        <p className="mt-8 text-ink-2">
          There are no plans yet. Start an empty one or read a document below.
        </p>
      )}
      <section aria-label="Add a plan" className="mt-8 border-rule border-t pt-4">
        <h2 className="font-semibold font-sign text-[20px]">Add a plan</h2>
        {errors.length > 0 && (
          <div role="alert" className="mt-2 border-2 border-stop bg-panel p-3">
            <p className="font-semibold text-stop">
              The document was not taken.{" "}
              {errors.length === 1 ? "One thing is wrong:" : `${errors.length} things are wrong:`}
            </p>
            <ul className="mt-1 max-h-60 list-disc overflow-auto pl-5">
              {errors.map((error) => (
                <li key={error} className="break-words">
                  {error}
                </li>
              ))}
            </ul>
          </div>
        )}
        <div className="mt-3 grid gap-6 md:grid-cols-2">
          <Form method="post" encType="multipart/form-data" className="flex flex-col gap-2">
            <input type="hidden" name="do" value="read" />
            <label htmlFor="plan-file" className="text-ink-2">
              From a document, JSON or YAML
            </label>
            <input
              id="plan-file"
              type="file"
              name="file"
              accept=".json,.yaml,.yml,application/json,text/yaml"
              className="text-ink-2 file:mr-3 file:rounded-[3px] file:border file:border-rule file:border-solid file:bg-panel file:px-3 file:py-1 file:text-ink"
            />
            <label htmlFor="plan-text" className="text-ink-2">
              or pasted here
            </label>
            <textarea
              id="plan-text"
              name="text"
              rows={5}
              className="field addr"
              placeholder={"ironFork: 1\nname: …"}
              spellCheck={false}
            />
            <div>
              <button type="submit" className="button button-strong" disabled={busy}>
                Read the document
              </button>
            </div>
          </Form>
          <Form method="post" encType="multipart/form-data" className="flex flex-col gap-2">
            <input type="hidden" name="do" value="new" />
            <label htmlFor="plan-name" className="text-ink-2">
              Or start empty
            </label>
            <input
              id="plan-name"
              name="name"
              required
              maxLength={200}
              placeholder="Name of the network"
              className="field w-72"
            />
            <div>
              <button type="submit" className="button" disabled={busy}>
                Start an empty plan
              </button>
            </div>
          </Form>
        </div>
      </section>
    </main>
  );
}

function SheetCard({ entry }: { entry: Sheet }) {
  const { sheet } = entry;
  const flows = sheet.counts.flows;
  return (
    <li className="flex flex-col border border-rule bg-panel">
      <Link
        to={`/plans/${entry.id}/map`}
        className="block h-52 border-rule border-b bg-ground p-2"
        aria-label={`Open ${sheet.name}`}
      >
        <SmallDrawing drawing={entry.drawing} roles={sheet.roles} />
      </Link>
      <div className="p-4">
        <h2 className="font-semibold font-sign text-[20px]">
          <Link to={`/plans/${entry.id}/map`}>{sheet.name}</Link>
        </h2>
        <p className="mt-1 line-clamp-2 text-ink-2">{sheet.description}</p>
        <dl className="mt-3 flex flex-wrap gap-x-6 gap-y-1">
          <Figure term="flows work" of={flows} value={sheet.works} />
          <Figure term="survive any one link" of={flows} value={sheet.survive} />
          <div>
            <dt className="text-[13px] text-ink-2">holds</dt>
            <dd>
              {sheet.counts.devices} devices, {sheet.counts.links} links, {sheet.counts.routes} routes
            </dd>
          </div>
        </dl>
        <div className="mt-3 flex gap-4 text-[13px] text-ink-2">
          <span>
            Revision {entry.revision} by {entry.author}
          </span>
          <a className="name-link" href={`/plans/${entry.id}/document?format=yaml`}>
            YAML
          </a>
          <a className="name-link" href={`/plans/${entry.id}/document?format=json`}>
            JSON
          </a>
          <details className="relative ml-auto">
            <summary className="cursor-pointer">Delete</summary>
            <Form
              method="post"
              encType="multipart/form-data"
              className="absolute right-0 z-10 w-64 border border-iron bg-panel p-3 shadow-md"
            >
              <input type="hidden" name="do" value="delete" />
              <input type="hidden" name="plan" value={entry.id} />
              <p className="text-ink">Delete {sheet.name} with all its revisions? This cannot be undone.</p>
              <button type="submit" className="button mt-2 border-stop text-stop">
                Delete the plan
              </button>
            </Form>
          </details>
        </div>
      </div>
    </li>
  );
}

function Figure({ term, value, of }: { term: string; value: number; of: number }) {
  const all = value === of;
  return (
    <div>
      <dt className="text-[13px] text-ink-2">{term}</dt>
      <dd className={`font-semibold font-sign text-[20px] ${all ? "" : "text-stop"}`}>
        {value} of {of}
      </dd>
    </div>
  );
}
