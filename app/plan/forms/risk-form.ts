import { elementRefs, idOf, type Plan, type Risk, riskSchema } from "../../../core/plan/index.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm } from "./schema-form.ts";

/** What fails together: a duct, a power feed, a room; a new one where none is given. */
export function riskForm(plan: Plan, risk: Risk | null): FormSpec {
  const refs = elementRefs(plan).filter((ref) => !ref.startsWith("watch:") && !ref.startsWith("risk:"));
  const fill = (item: Record<string, unknown>, values: Values) => {
    const name = typed(values, "label");
    const taken = plan.risks.map((entry) => entry.id);
    return item.id || !name ? item : { ...item, id: freeName(idOf(name), taken) };
  };
  const form = schemaForm({
    plan,
    schema: riskSchema,
    wording: {
      label: { label: "Name", hint: "such as The duct under North Road", wide: true },
      of: {
        label: "Takes along",
        hint: "link:…, device:…, site:…, with commas",
        suggest: refs,
        mono: true,
        wide: true,
      },
      ...(risk ? { id: { label: "Id", mono: true } } : {}),
      note: { label: "Note", hint: "any text", wide: true },
    },
    item: risk,
    fill,
    title: risk ? `Edit the risk ${risk.label ?? risk.id}` : "Add a shared risk",
    submit: risk ? "Save" : "Add the risk",
    removal: risk && planItemEdit(`Remove the risk ${risk.label ?? risk.id}`, "risks", risk, null),
    edit: (after) => {
      const name = after.label ?? after.id;
      const label = risk ? `Change the risk ${name}` : `Add the risk ${name}`;
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
        : { ok: false, errors: { label: "give it a name, such as North duct" } },
  };
}
