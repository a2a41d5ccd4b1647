import type { Cost } from "../../../core/impact/index.ts";
import type { Edit } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { Coded } from "../../ui/coded.tsx";
import { downOf } from "../down.ts";
import { usePlan } from "../open-plan.tsx";
import { useRights } from "../rights.tsx";
import { elementLabel } from "../sentence-parts.ts";
import { ChangeList } from "./change-list.tsx";
import { ImpactView } from "./impact-view.tsx";

interface EditPreviewProps {
  edit: Edit;
  /** Whether it was proven to make nothing worse: its costs need not be computed again. */
  proven?: boolean;
  busy: boolean;
  onTake: () => void;
}

/** An offered edit: its changes, its impact, and the button that applies it once the impact is known. */
export function EditPreview({ edit, proven = false, busy, onTake }: EditPreviewProps) {
  const { page, frame } = usePlan();
  const down = downOf(frame);
  const { edits } = useRights();
  const { answer, pending, error } = useAsking(
    page,
    "effect",
    { down, edit },
    { kind: `preview ${edit.label}` },
  );
  const costs = useAsking(page, "costs", answer?.ok && !proven ? { down, edit } : null, {
    kind: `costs ${edit.label}`,
  });
  const trades = (costs.answer?.length ?? 0) > 0;
  const findings = useAsking(page, "findingsAfter", answer?.ok ? { down, edit } : null, {
    kind: `findings ${edit.label}`,
  });
  return (
    <div ref={intoSight} className="mt-1 mb-2 border-iron border-l-4 bg-sunk px-3 py-2" data-testid="offer">
      <ChangeList changes={edit.changes} />
      <Costs costs={costs.answer ?? []} />
      {/* Placed above content that is still loading: it must not move under a pointer. */}
      {edits && (
        <button
          type="button"
          className="button button-strong my-2"
          disabled={busy || pending || !answer?.ok || (costs.pending && !costs.answer)}
          onClick={onTake}
        >
          {trades ? "Apply anyway" : "Apply"}
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

/** What an edit makes worse, before the button that applies it. */
function Costs({ costs }: { costs: readonly Cost[] }) {
  const { labels } = usePlan();
  const device = (id: string) => labels.devices.get(id) ?? id;
  if (costs.length === 0) return null;
  const texts = costs.map((cost) => {
    if (cost.kind === "flow") return `${labels.flows.get(cost.flow) ?? cost.flow} no longer works.`;
    const lost = `${device(cost.from)} no longer reaches ${cost.to}`;
    return cost.kind === "range" ? `${lost}.` : `If ${elementLabel(cost.failed, labels)} fails, ${lost}.`;
  });
  const shown = [...new Set(texts)];
  return (
    <div role="note" className="mt-1 text-stop">
      <p className="font-medium">This change has a cost:</p>
      <ul className="list-disc pl-5">
        {shown.slice(0, MAX_SHOWN_COSTS).map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ul>
      {shown.length > MAX_SHOWN_COSTS && <p>and {shown.length - MAX_SHOWN_COSTS} more</p>}
    </div>
  );
}

const MAX_SHOWN_COSTS = 5;

/** Scrolls content that opened below the lower edge into view. */
function intoSight(element: HTMLElement | null) {
  element?.scrollIntoView({ block: "nearest" });
}
