import { Link, useNavigate } from "react-router";
import type { Plan } from "../../../core/plan/index.ts";
import { secondsText } from "../../../core/words/index.ts";
import { downOf } from "../../plan/down.ts";
import type { useEditing } from "../../plan/editing.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Told } from "../../plan/told.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { OutageWindow } from "./outage-window.tsx";

interface TimeHeadProps {
  /** Whether anything fails yet. */
  asked: boolean;
  /** The moment that the page shows, in milliseconds; null where it shows none. */
  cursor: number | null;
  onStop: (ms: number) => void;
}

/** What the page is, and the ways from it to other pages at the same moment. */
export function TimeHead({ asked, cursor, onStop }: TimeHeadProps) {
  const { page, params } = usePlan();
  return (
    <div className="flex flex-wrap items-baseline gap-3">
      <h1 className="font-semibold font-sign text-[26px]">Outage timeline</h1>
      <Link className="name-link" to={pageHref(page.planId, "failures", params)}>
        Failure matrix
      </Link>
      {cursor !== null ? (
        <>
          <Link className="name-link" to={pageHref(page.planId, "map", params)}>
            Map at this moment
          </Link>
          <Link className="name-link" to={pageHref(page.planId, "routes", params)}>
            Routes at this moment
          </Link>
        </>
      ) : (
        asked && (
          <button type="button" className="button" onClick={() => onStop(-1)}>
            Step through
          </button>
        )
      )}
    </div>
  );
}

/** What becomes of what was established when it began (rule 18): told where it breaks, and counted where it lives on. */
export function Established({ flows }: { flows: TimelineAnswer["flows"] }) {
  const { labels } = usePlan();
  const told = flows.filter(({ sessions }) => sessions);
  const broken = told.filter(({ sessions }) => sessions?.state === "broken");
  if (told.length === 0) return null;
  return (
    <section aria-label="Established sessions" className="mt-3">
      <h2 className="font-semibold font-sign text-[18px]">Established sessions</h2>
      <p className="text-ink-2">
        {broken.length === 0
          ? "They survive in every flow that works at the end."
          : `${told.length} ${told.length === 1 ? "flow works" : "flows work"} at the end; sessions survive in ${told.length === broken.length ? "none of them" : told.length - broken.length}.`}
      </p>
      <ul>
        {broken.map(({ id, sessions }) => (
          <li key={id}>
            <strong className="font-medium">{labels.flows.get(id) ?? id}</strong> breaks:{" "}
            <Told text={sessions?.reason ?? ""} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** When something is to carry more than it can, in the longest case; nothing where all has room, or no figures are told. */
export function Crowded({ spans }: { spans: TimelineAnswer["crowded"] }) {
  if (spans.length === 0) return null;
  return (
    <section aria-label="Capacity" className="mt-3">
      <h2 className="font-semibold font-sign text-[18px]">Capacity exceeded</h2>
      <ul>
        {spans.map(({ fromMs, toMs, text }) => (
          <li key={`${fromMs} ${text}`}>
            <span className="text-ink-2">{spanText(fromMs, toMs)}</span> <Told text={text} />.
          </li>
        ))}
      </ul>
    </section>
  );
}

function spanText(fromMs: number, toMs: number | null): string {
  if (toMs !== null) return `From ${secondsText(fromMs)} to ${secondsText(toMs)} s`;
  return fromMs === 0 ? "Throughout" : `From ${secondsText(fromMs)} s on`;
}

interface WhatHappensProps {
  events: TimelineAnswer["events"];
  onStop: (ms: number) => void;
}

/** Everything that happens, one after the other; each leads to its moment. */
export function WhatHappens({ events, onStop }: WhatHappensProps) {
  return (
    <section aria-label="Events" className="mt-3">
      <h2 className="font-semibold font-sign text-[18px]">Events (longest case)</h2>
      <ol className="max-w-3xl">
        {events.map((event, i) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: the same can happen twice at one moment; the order is the identity.
            key={`${i} ${event.atMs} ${event.what}`}
            className="flex gap-3 border-rule border-t"
          >
            <button
              type="button"
              className="w-20 shrink-0 text-right text-ink-2 hover:underline"
              onClick={() => onStop(event.atMs)}
              aria-label={`Stop at ${secondsText(event.atMs)} s`}
            >
              {secondsText(event.atMs)} s
            </button>
            <span>
              <Told text={event.what} />
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

interface SavedOutagesProps {
  plan: Plan;
  /** The one that is shown. */
  own: string;
  editing: ReturnType<typeof useEditing>;
}

/** The outages that the plan has saved. */
export function SavedOutages({ plan, own, editing }: SavedOutagesProps) {
  const { frame, params } = usePlan();
  const navigate = useNavigate();
  const down = downOf(frame);
  return (
    <section aria-label="Saved outages" className="mt-5">
      <h2 className="font-semibold font-sign text-[18px]">Saved outages</h2>
      <p className="mt-1">
        <OutageWindow text="Add outage" outage={null} />
      </p>
      <ul className="mt-1">
        {plan.outages.map((entry) => (
          <li key={entry.id} className="flex items-center gap-3">
            <Link
              className="name-link font-medium"
              to={withParam(new URLSearchParams(down.map((ref) => ["down", ref])), "outage", entry.id)}
            >
              {entry.label ?? entry.id}
            </Link>
            <OutageWindow
              text="Edit"
              label={`Edit the outage ${entry.label ?? entry.id}`}
              outage={entry.id}
            />
            <button
              type="button"
              className="name-link text-ink-2"
              disabled={editing.busy}
              aria-label={`Remove the outage ${entry.label ?? entry.id}`}
              onClick={() => {
                editing.save({
                  label: `Remove the outage ${entry.label ?? entry.id}`,
                  changes: [{ in: "plan", collection: "outages", before: entry, after: null }],
                });
                if (entry.id === own) navigate(withParam(params, "outage", null));
              }}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
