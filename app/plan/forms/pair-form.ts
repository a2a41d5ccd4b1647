import { idOf, type Pair, type Plan, pairSchema } from "../../../core/plan/index.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm } from "./schema-form.ts";

/** Two devices that are one to their neighbours; a new pair where none is given. */
export function pairForm(plan: Plan, pair: Pair | null): FormSpec {
  const devices = plan.devices.map(({ id }) => id);
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
        hint: "two devices, with a comma",
        suggest: devices,
        mono: true,
        wide: true,
      },
      active: { label: "Active while both are well", hint: "the first", suggest: devices, mono: true },
      preempt: { label: "Takes over again when it is back", none: "no", words: yesNo },
      heartbeats: {
        label: "Heartbeat links",
        hint: "links between the two",
        suggest: plan.links.map(({ id }) => id),
        mono: true,
        wide: true,
      },
      helloMs: { label: "Hello every, ms", hint: "1000" },
      missed: { label: "Missed until it takes over", hint: "3" },
      monitor: {
        label: "Monitors",
        hint: "interfaces or watches of both",
        suggest: [...new Set(names)],
        mono: true,
        wide: true,
      },
      syncStates: { label: "The standby knows established flows", none: "no", words: yesNo },
      ...(pair ? { id: { label: "Id", mono: true } } : {}),
      note: { label: "Note", hint: "any text", wide: true },
    },
    item: pair,
    fill,
    title: pair ? `Edit the pair ${pair.label ?? pair.id}` : "Add a pair",
    submit: pair ? "Save" : "Add the pair",
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
