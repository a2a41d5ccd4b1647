import { idOf, type Plan, type Risk, riskSchema } from "../../../core/plan/index.ts";
import { elementChoices } from "./choices.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm } from "./schema-form.ts";

/** Elements that fail together: a duct, a power feed, a room; a new one by default. plain-ok */
export function riskForm(plan: Plan, risk: Risk | null): FormSpec {
  const elements = elementChoices(plan, (ref) => !ref.startsWith("watch:") && !ref.startsWith("risk:"));
  const fill = (item: Record<string, unknown>, values: Values) => {
    const name = typed(values, "label");
    const taken = plan.risks.map((entry) => entry.id);
    return item.id || !name ? item : { ...item, id: freeName(idOf(name), taken) };
  };
  const form = schemaForm({
    plan,
    schema: riskSchema,
    wording: {
      label: { label: "Name", hint: "such as Duct under North Road", wide: true },
      of: {
        label: "Fails together",
        hint: "links, devices, interfaces, sites",
        suggest: elements,
        mono: true,
        wide: true,
      },
      ...(risk ? { id: { label: "Id", mono: true } } : {}),
      note: { label: "Note", hint: "any text", wide: true },
    },
    item: risk,
    fill,
    title: risk ? `Edit shared risk ${risk.label ?? risk.id}` : "Add shared risk",
    submit: risk ? "Save" : "Add shared risk",
    removal: risk && planItemEdit(`Remove the shared risk ${risk.label ?? risk.id}`, "risks", risk, null),
    edit: (after) => {
      const name = after.label ?? after.id;
      const label = risk ? `Change the shared risk ${name}` : `Add the shared risk ${name}`;
      if (!risk || risk.id === after.id) return planItemEdit(label, "risks", risk, after);
      const place = (renamed: Plan): Plan => ({
        ...renamed,
        risks: renamed.risks.map((entry) => (entry.id === after.id ? after : entry)),
      });
      return renamingEdit({ plan, label, what: { risk: risk.id }, to: after.id, place });
    },
  });
  return {
    ...form,
    read: (values) =>
      typed(values, "label") || typed(values, "id")
        ? form.read(values)
        : { ok: false, errors: { label: "enter a name, such as North duct" } },
  };
}
