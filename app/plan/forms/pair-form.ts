import { idOf, type Pair, type Plan, pairSchema } from "../../../core/plan/index.ts";
import { deviceChoices, linkChoices } from "./choices.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm } from "./schema-form.ts";

/** Two devices that act as one toward their neighbors; a new pair by default. */
export function pairForm(plan: Plan, pair: Pair | null): FormSpec {
  const devices = deviceChoices(plan);
  const names = plan.devices.flatMap((device) => [
    ...device.interfaces.map((port) => port.name),
    ...device.watches.map((watch) => watch.id),
  ]);
  const yesNo = { true: "yes", false: "no" };
  const fill = (item: Record<string, unknown>, values: Values) => {
    const members = Array.isArray(item.members) ? (item.members as string[]) : [];
    const active = item.active ?? members[0];
    const taken = plan.pairs.map((entry) => entry.id);
    const name = typed(values, "label") ?? members.join("-");
    return { ...item, ...(active ? { active } : {}), id: item.id ?? freeName(idOf(name || "pair"), taken) };
  };
  return schemaForm({
    plan,
    schema: pairSchema,
    wording: {
      label: { label: "Name", hint: "such as Data hall firewalls", wide: true },
      members: {
        label: "Members",
        hint: "two devices",
        suggest: devices,
        mono: true,
        wide: true,
      },
      active: { label: "Active member", hint: "the first one", suggest: devices, mono: true },
      preempt: { label: "Preempts after recovery", none: "no", words: yesNo },
      heartbeats: {
        label: "Heartbeat links",
        hint: "links between the members",
        suggest: linkChoices(plan),
        mono: true,
        wide: true,
      },
      helloMs: { label: "Hello interval", hint: "1 s" },
      missed: { label: "Missed hellos until takeover", hint: "3" },
      monitor: {
        label: "Monitors",
        hint: "interfaces or watches of both members",
        suggest: [...new Set(names)],
        mono: true,
        wide: true,
      },
      syncStates: { label: "Session state synchronized", none: "no", words: yesNo },
      ...(pair ? { id: { label: "Id", mono: true } } : {}),
      note: { label: "Note", hint: "any text", wide: true },
    },
    item: pair,
    fill,
    title: pair ? `Edit the pair ${pair.label ?? pair.id}` : "Add pair",
    submit: pair ? "Save" : "Add pair",
    removal: pair && planItemEdit(`Remove the pair ${pair.label ?? pair.id}`, "pairs", pair, null),
    edit: (after) => {
      const name = after.label ?? after.id;
      const label = pair ? `Change the pair ${name}` : `Add the pair ${name}`;
      if (!pair || pair.id === after.id) return planItemEdit(label, "pairs", pair, after);
      const place = (renamed: Plan): Plan => ({
        ...renamed,
        pairs: renamed.pairs.map((entry) => (entry.id === after.id ? after : entry)),
      });
      return renamingEdit({ plan, label, what: { pair: pair.id }, to: after.id, place });
    },
  });
}
