import type { Edit } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../down.ts";
import { LinkedSentence } from "../linked-sentence.tsx";
import { usePlan } from "../open-plan.tsx";

/** How long the fields rest before findings are computed, in milliseconds. */
const RESTED_MS = 500;
/** Findings that are listed at most. */
const MAX_LISTED = 3;

/** The errors that an edit would cause, such as an address that another device on the segment has. */
export function FormWarnings({ edit }: { edit: Edit | null }) {
  const { page, frame } = usePlan();
  const { answer } = useAsking(page, "findingsAfter", edit && { down: downOf(frame), edit }, {
    kind: "form",
    afterMs: RESTED_MS,
  });
  const errors = edit && answer ? answer.appear.filter(({ severity }) => severity === "error") : [];
  return (
    <div role="status" className="text-[13px] text-stop">
      {errors.slice(0, MAX_LISTED).map(({ code, device, subject, text }) => (
        <p key={`${code} ${device} ${subject}`}>
          <span className="font-semibold">New finding: </span>
          <LinkedSentence text={text} />
        </p>
      ))}
      {errors.length > MAX_LISTED && <p>and {errors.length - MAX_LISTED} more</p>}
    </div>
  );
}
