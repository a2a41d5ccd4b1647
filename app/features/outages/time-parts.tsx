import { Link } from "react-router";
import { secondsText } from "../../../core/words/index.ts";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { pageHref } from "../../search/links.ts";

interface TimeHeadProps {
  /** The moment that the page shows, in milliseconds; null if none. */
  cursor: number | null;
  onStop: (ms: number) => void;
}

/** Steps through the outage; links to other pages at the same moment. */
export function TimeHead({ cursor, onStop }: TimeHeadProps) {
  const { page, params } = usePlan();
  if (cursor === null)
    return (
      <button type="button" className="button mt-2" onClick={() => onStop(-1)}>
        Step through
      </button>
    );
  return (
    <p className="mt-2 flex gap-3">
      <Link className="name-link" to={pageHref(page.planId, "map", params)}>
        Map at this moment
      </Link>
      <Link className="name-link" to={pageHref(page.planId, "routes", params)}>
        Routes at this moment
      </Link>
    </p>
  );
}

/** The result for sessions established before the outage (rule 18): those that break are listed, survivors are counted.
 * */
export function Established({ flows }: { flows: TimelineAnswer["flows"] }) {
  const { labels } = usePlan();
  const working = flows.filter(({ sessions }) => sessions);
  const broken = working.filter(({ sessions }) => sessions?.state === "broken");
  if (working.length === 0) return null;
  return (
    <section aria-label="Established sessions" className="mt-3">
      <h2 className="font-semibold font-sign text-[18px]">Established sessions</h2>
      <p className="text-ink-2">
        {broken.length === 0
          ? "They survive in every flow that works at the end."
          : `${working.length} ${working.length === 1 ? "flow works" : "flows work"} at the end; sessions survive in ${working.length === broken.length ? "none of them" : working.length - broken.length}.`}
      </p>
      <ul>
        {broken.map(({ id, sessions }) => (
          <li key={id}>
            <strong className="font-medium">{labels.flows.get(id) ?? id}</strong> breaks:{" "}
            <LinkedSentence text={sessions?.reason ?? ""} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Times of overload in the longest case; nothing without an overload or without known capacities. */
export function Crowded({ spans }: { spans: TimelineAnswer["crowded"] }) {
  if (spans.length === 0) return null;
  return (
    <section aria-label="Capacity" className="mt-3">
      <h2 className="font-semibold font-sign text-[18px]">Capacity exceeded</h2>
      <ul>
        {spans.map(({ fromMs, toMs, text }) => (
          <li key={`${fromMs} ${text}`}>
            <span className="text-ink-2">{spanText(fromMs, toMs)}</span> <LinkedSentence text={text} />.
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
              <LinkedSentence text={event.what} />
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
