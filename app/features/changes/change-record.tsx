import { itemPhrase } from "../../../core/plan/index.ts";
import type { ChangeEvent } from "../../../server/changes/changes.ts";
import { ClockTime } from "../../ui/clock-time.tsx";

const words: Record<ChangeEvent["kind"], string> = {
  proposed: "proposed the change",
  rewritten: "edited the change",
  approved: "approved the change",
  ticked: "completed",
  unticked: "reopened",
  "turning back": "began the rollback",
  "going on": "continued the change",
  done: "closed it as carried out",
  "turned back": "closed it as rolled back",
  withdrawn: "withdrew the change",
};

/** All that was done with a change, newest first. */
export function ChangeRecord({ events }: { events: readonly ChangeEvent[] }) {
  return (
    <section aria-label="History" className="mt-6 max-w-4xl">
      <h2 className="font-semibold font-sign text-[20px]">History</h2>
      <ol className="text-[14px]">
        {events.toReversed().map(({ id, kind, detail, author, at }) => (
          <li key={id} className="flex gap-3 border-rule border-t py-0.5">
            <span className="w-40 shrink-0 text-[13px] text-ink-2">
              <ClockTime at={at} />
            </span>
            <span>
              {author} {words[kind]}
              {typeof detail.item === "string" && ` ${itemPhrase(detail.item)}`}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
