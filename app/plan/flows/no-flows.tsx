import { useState } from "react";
import { useAsking } from "../../engine/asking.ts";
import { useEditing } from "../editing.ts";
import { usePlan } from "../open-plan.tsx";
import { Refusals } from "../refusals.tsx";

/** Shown if a plan has no flow, because nothing is checked then. Offers proposed flows. */
export function NoFlows() {
  const { page } = usePlan();
  const { answer: edit } = useAsking(page, "proposedFlows", {}, { kind: "proposed flows" });
  const editing = useEditing(page, "proposed flows");
  const [left, setLeft] = useState<readonly string[]>([]);
  const proposed = (edit?.changes ?? []).map(({ after }) => after as { id: string; label?: string });
  const flows = (edit?.changes ?? []).filter(({ after }) => !left.includes((after as { id: string }).id));
  const toggle = (id: string) =>
    setLeft((now) => (now.includes(id) ? now.filter((one) => one !== id) : [...now, id]));
  return (
    <section aria-label="No flows" className="mt-3 max-w-2xl border border-iron bg-panel p-3">
      <p className="font-semibold">No flows yet.</p>
      <p className="mt-1 text-ink-2">
        Add a flow to check that traffic arrives and which failures it survives.
      </p>
      <Refusals errors={editing.errors} />
      {edit && (
        <button
          type="button"
          className="button button-strong mt-2"
          disabled={editing.busy || flows.length === 0}
          onClick={() => editing.save({ ...edit, changes: flows })}
        >
          {flows.length === 1 ? "Add proposed flow" : `Add ${flows.length} proposed flows`}
        </button>
      )}
      {edit && (
        <ul className="mt-2 max-h-48 overflow-auto text-[13px]">
          {proposed.map(({ id, label }) => (
            <li key={id}>
              <label className="flex items-baseline gap-2">
                <input type="checkbox" checked={!left.includes(id)} onChange={() => toggle(id)} />
                {label ?? id}
              </label>
            </li>
          ))}
        </ul>
      )}
      {edit === null && <p className="mt-2 text-ink-2">Add devices with addresses first.</p>}
    </section>
  );
}
