import { useState } from "react";
import type { Plan } from "../../../core/plan/index.ts";
import { Button } from "../../ui/button.tsx";
import { Window } from "../../ui/dialog.tsx";
import { Waiting } from "../../ui/waiting.tsx";
import { usePlanDocument } from "../document.ts";
import { useEditing } from "../editing.ts";
import { usePlan } from "../open-plan.tsx";
import { useRights } from "../rights.tsx";
import { type FormSpec, ItemForm } from "./item-form.tsx";

interface ItemWindowProps {
  /** What the button says that opens it. */
  text: string;
  label?: string;
  title: string;
  about: string;
  /** The form, once the plan is loaded; null if the plan no longer has the item. */
  spec: (plan: Plan) => FormSpec | null;
  /** Separates its saved input from other forms of the page. */
  of: string;
}

/** One thing of the plan in a window over the page. */
export function ItemWindow({ text, label, title, about, spec, of }: ItemWindowProps) {
  const [open, setOpen] = useState(false);
  if (!useRights().edits) return null;
  return (
    <Window
      title={title}
      about={about}
      open={open}
      onOpenChange={setOpen}
      trigger={<Button aria-label={label}>{text}</Button>}
    >
      {open && <Fields spec={spec} of={of} onDone={() => setOpen(false)} />}
    </Window>
  );
}

function Fields({ spec, of, onDone }: Pick<ItemWindowProps, "spec" | "of"> & { onDone: () => void }) {
  const { page } = usePlan();
  const { plan, error, retry } = usePlanDocument(page);
  const editing = useEditing(page, of);
  if (!plan) return <Waiting text="Loading plan …" error={error} retry={retry} />;
  const form = spec(plan);
  if (!form) return <p className="text-ink-2">The item no longer exists in the plan.</p>;
  return <ItemForm spec={form} editing={editing} onDone={onDone} onCancel={onDone} />;
}
