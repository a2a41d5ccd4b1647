import { flowForm } from "../forms/flow-form.ts";
import type { Values } from "../forms/item-form.tsx";
import { ItemWindow } from "../forms/item-window.tsx";

interface FlowWindowProps {
  /** What the button says that opens it. */
  text: string;
  label?: string;
  /** The flow that is edited, by its id; null for a new one. */
  flow: string | null;
  /** Initial values of a new one. */
  fresh?: Values;
}

/** A flow in a window over the page: its ends and its expectation. */
export function FlowWindow({ text, label, flow, fresh }: FlowWindowProps) {
  return (
    <ItemWindow
      text={text}
      label={label}
      title={flow === null ? "Add flow" : "Edit flow"}
      about="Sender, destination and expectations of the traffic."
      of={`flow ${flow ?? "new"}`}
      spec={(plan) => {
        const item = plan.flows.find((entry) => entry.id === flow) ?? null;
        return flow !== null && !item ? null : flowForm(plan, item, fresh);
      }}
    />
  );
}
