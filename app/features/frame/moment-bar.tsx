import { useCallback, useEffect, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { secondsText } from "../../../core/words/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { plainText } from "../../plan/sentence-parts.ts";
import type { MomentNotice } from "../../queries/conditions.ts";
import { Tip } from "../../ui/tooltip.tsx";

const PLAY_EVERY_MS = 1200;

/**
 * How far an outage has come: everything on the page shows the network at that moment. Comma and full stop step
 * to what happened before and what happens next, P plays.
 */
export function MomentBar({ moment }: { moment: MomentNotice }) {
  const { params, labels } = usePlan();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const [playing, setPlaying] = useState(false);
  const { atMs, stops, events, label } = moment;
  const before = stops.findLast((stop) => stop < atMs) ?? (atMs > -1 && stops[0] === atMs ? -1 : undefined);
  const after = stops.find((stop) => stop > atMs);
  const go = useCallback(
    (to: number | undefined) => {
      if (to === undefined) return;
      // The current address: a key may arrive before the page has rendered the last change of it.
      const next = new URLSearchParams(window.location.search);
      next.set("at", String(to));
      navigate(`${window.location.pathname}?${next}`, { replace: true, preventScrollReset: true });
    },
    [navigate],
  );
  useEffect(() => {
    if (!playing) return;
    if (after === undefined) {
      setPlaying(false);
      return;
    }
    const timer = setTimeout(() => go(after), PLAY_EVERY_MS);
    return () => clearTimeout(timer);
  }, [playing, after, go]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input, select, textarea")) return;
      if (event.key === ",") go(before);
      else if (event.key === ".") go(after);
      else if (event.key === "p") setPlaying((now) => !now);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [go, before, after]);
  const settled = new URLSearchParams(
    [...params].filter(
      ([key]) =>
        key !== "at" && (pathname.endsWith("/timeline") || !["outage", "fail", "heal"].includes(key)),
    ),
  );
  return (
    <section aria-label="Step through the outage" className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <span className="font-medium">{label}</span>
      <div className="flex items-center gap-1">
        <Tip text="Previous event (comma)">
          <button type="button" className="button" disabled={before === undefined} onClick={() => go(before)}>
            Back
          </button>
        </Tip>
        <Tip text="Play (P)">
          <button
            type="button"
            className="button"
            disabled={after === undefined}
            aria-pressed={playing}
            onClick={() => setPlaying((now) => !now)}
          >
            {playing ? "Pause" : "Play"}
          </button>
        </Tip>
        <Tip text="Next event (full stop)">
          <button type="button" className="button" disabled={after === undefined} onClick={() => go(after)}>
            Next
          </button>
        </Tip>
      </div>
      <p role="status" data-testid="moment">
        <strong>{atMs < 0 ? "before the failure" : `at ${secondsText(atMs)} s`}</strong>
        {events.length > 0 && atMs >= 0 && (
          <span className="text-ink-2">
            {" "}
            {events
              .slice(0, 2)
              .map((event) => plainText(event, labels))
              .join("; ")}
            {events.length > 2 ? `; and ${events.length - 2} more` : ""}
          </span>
        )}
      </p>
      <Link className="name-link text-ink-2" to={`${pathname}?${settled}`}>
        Leave
      </Link>
    </section>
  );
}
