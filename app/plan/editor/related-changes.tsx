import { useState } from "react";
import type { CompanionKind } from "../../../core/authoring/index.ts";
import { describeRoute, type Edit, type StaticRoute } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../down.ts";
import type { useEditing } from "../editing.ts";
import { EditPreview } from "../impact/edit-preview.tsx";
import { usePlan } from "../open-plan.tsx";

const kindWords: Record<CompanionKind, string> = {
  "other-end": "Return path",
  floating: "Floating static",
  watch: "Watch",
  discard: "Discard route",
};

interface RelatedChangesProps {
  device: string;
  route: StaticRoute;
  editing: ReturnType<typeof useEditing>;
  onClose: () => void;
}

/** What belongs with a route: the other end, a floating twin, a watch, a discard; each with its effect before it is taken. */
export function RelatedChanges({ device, route, editing, onClose }: RelatedChangesProps) {
  const { page, frame } = usePlan();
  const [open, setOpen] = useState<string | null>(null);
  const down = downOf(frame);
  const { answer, pending, error } = useAsking(page, "companions", { down, device, route });
  const take = (edit: Edit) => {
    setOpen(null);
    editing.save(edit);
  };
  return (
    <section
      aria-label={`Related changes of ${describeRoute(route)}`}
      className="max-h-[45vh] overflow-y-auto border-rule border-t bg-panel px-4 py-2"
    >
      <div className="flex items-baseline gap-3">
        <h2 className="font-semibold">
          With <span className="addr">{describeRoute(route)}</span>
        </h2>
        <button type="button" className="name-link text-[13px] text-ink-2" onClick={onClose}>
          Close
        </button>
      </div>
      {pending && <p className="text-ink-2">Looking for related changes …</p>}
      {error && (
        <p role="alert" className="text-stop">
          {error}
        </p>
      )}
      {answer?.length === 0 && !pending && (
        <p className="text-ink-2">
          No related changes: no further standby route, return route or watch is possible.
        </p>
      )}
      <ul>
        {answer?.map((companion) => {
          const key = companion.edit.label;
          return (
            <li key={key} className="border-rule border-t py-1.5">
              <p className="flex flex-wrap items-baseline gap-x-3">
                <span className="w-28 shrink-0 text-ink-2">{kindWords[companion.kind]}</span>
                <span className="font-medium">{companion.edit.label}</span>
                <button
                  type="button"
                  className="button"
                  aria-expanded={open === key}
                  onClick={() => setOpen(open === key ? null : key)}
                >
                  {open === key ? "Hide impact" : "Show impact"}
                </button>
              </p>
              <p className="text-ink-2 md:pl-31">{companion.why}</p>
              {open === key && (
                <EditPreview edit={companion.edit} busy={editing.busy} onTake={() => take(companion.edit)} />
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
