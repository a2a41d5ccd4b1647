import type { Edit } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { Coded } from "../../ui/coded.tsx";
import { downOf } from "../down.ts";
import { usePlan } from "../open-plan.tsx";
import { useRights } from "../rights.tsx";
import { ChangeList } from "./change-list.tsx";
import { ImpactView } from "./impact-view.tsx";

interface EditPreviewProps {
  edit: Edit;
  busy: boolean;
  onTake: () => void;
}

/** An edit that is offered: what it writes, the button that takes it once it is known what it does, and what that is. */
export function EditPreview({ edit, busy, onTake }: EditPreviewProps) {
  const { page, frame } = usePlan();
  const down = downOf(frame);
  const { edits } = useRights();
  const { answer, pending, error } = useAsking(
    page,
    "effect",
    { down, edit },
    { kind: `preview ${edit.label}` },
  );
  const findings = useAsking(page, "findingsAfter", answer?.ok ? { down, edit } : null, {
    kind: `findings ${edit.label}`,
  });
  return (
    <div ref={intoSight} className="mt-1 mb-2 border-iron border-l-4 bg-sunk px-3 py-2" data-testid="offer">
      <ChangeList changes={edit.changes} />
      {/* Above what is still being worked out: it must not move under a pointer. */}
      {edits && (
        <button
          type="button"
          className="button button-strong my-2"
          disabled={busy || pending || !answer?.ok}
          onClick={onTake}
        >
          Apply
        </button>
      )}
      {pending && !answer && <p className="text-ink-2">Computing impact …</p>}
      {error && (
        <p role="alert" className="text-stop">
          {error}
        </p>
      )}
      {answer && !answer.ok && (
        <p role="alert" className="text-stop">
          <Coded text={answer.errors.map((one) => one.message).join("; ")} />
        </p>
      )}
      {answer?.ok && (
        <ImpactView effect={answer.effect} findings={findings.answer} looking={findings.pending} />
      )}
    </div>
  );
}

/** What was asked for near the lower edge opens below it. */
function intoSight(element: HTMLElement | null) {
  element?.scrollIntoView({ block: "nearest" });
}
