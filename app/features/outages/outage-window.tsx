import { ItemWindow } from "../../plan/forms/item-window.tsx";
import { outageForm } from "../../plan/forms/outage-form.ts";

interface OutageWindowProps {
  text: string;
  label?: string;
  /** The outage that is edited, by its id; null for a new one. */
  outage: string | null;
}

/** A saved outage in a window over the page: what fails and recovers when, step by step. */
export function OutageWindow({ text, label, outage }: OutageWindowProps) {
  return (
    <ItemWindow
      text={text}
      label={label}
      title={outage === null ? "Add outage" : "Edit outage"}
      about="Elements that fail and recover, each at its time. Fill the last step to add another."
      of={`outage ${outage ?? "new"}`}
      spec={(plan) => {
        const item = plan.outages.find((entry) => entry.id === outage) ?? null;
        return outage !== null && !item ? null : outageForm(plan, item);
      }}
    />
  );
}
