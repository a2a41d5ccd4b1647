import { useState } from "react";
import { Button } from "../../ui/button.tsx";
import { Window } from "../../ui/dialog.tsx";
import { Waiting } from "../../ui/waiting.tsx";
import { usePlanDocument } from "../document.ts";
import { useEditing } from "../editing.ts";
import { flowForm } from "../forms/flow-form.ts";
import { ItemForm, type Values } from "../forms/item-form.tsx";
import { usePlan } from "../open-plan.tsx";

interface FlowWindowProps {
  /** What the button says that opens it. */
  text: string;
  label?: string;
  /** The flow that is edited, by its id; null for a new one. */
  flow: string | null;
  /** What stands in a new one's fields. */
  fresh?: Values;
}

/** A flow in a window over the page: who sends what to whom, and what is expected of it. */
export function FlowWindow({ text, label, flow, fresh }: FlowWindowProps) {
  const [open, setOpen] = useState(false);
  return (
    <Window
      title={flow === null ? "A new flow" : "A flow"}
      about="Who sends what to whom, and what must hold whatever fails."
      open={open}
      onOpenChange={setOpen}
      trigger={<Button aria-label={label}>{text}</Button>}
    >
      {open && <Fields flow={flow} fresh={fresh} onDone={() => setOpen(false)} />}
    </Window>
  );
}

function Fields({ flow, fresh, onDone }: Pick<FlowWindowProps, "flow" | "fresh"> & { onDone: () => void }) {
  const { page } = usePlan();
  const { plan, error, retry } = usePlanDocument(page);
  const editing = useEditing(page, `flow ${flow ?? "new"}`);
  if (!plan) return <Waiting text="Opening the plan …" error={error} retry={retry} />;
  const item = plan.flows.find((entry) => entry.id === flow) ?? null;
  if (flow !== null && !item) return <p className="text-ink-2">The plan no longer has this flow.</p>;
  return <ItemForm spec={flowForm(plan, item, fresh)} editing={editing} onDone={onDone} onCancel={onDone} />;
}
