import { durationText, idOf, type Outage, outageSchema, type Plan } from "../../../core/plan/index.ts";

import { elementChoices } from "./choices.ts";
import { DURATION_FORMS, parseDuration } from "./durations.ts";
import { planItemEdit } from "./edits.ts";
import type { FieldSpec, FormReading, FormSpec, Values } from "./item-form.tsx";
import { freeName, listed, readItem, shown, tryEdit, typed, withoutEmpty } from "./reading.ts";

const parts = ["atMs", "fail", "shut", "restore"] as const;

/** The steps of which anything is typed, by their place in the form. */
function typedSteps(values: Values): number[] {
  const places = Object.keys(values).flatMap((name) =>
    typed(values, name) ? Number(name.split(".")[1]) : [],
  );
  return [...new Set(places.filter((place) => Number.isInteger(place)))].sort((a, b) => a - b);
}

/** The steps drawn: those typed, and an empty one after them. */
function fieldsOf(plan: Plan, values: Values): FieldSpec[] {
  const elements = elementChoices(plan);
  const steps = (typedSteps(values).at(-1) ?? -1) + 2;
  const fields: FieldSpec[] = [{ name: "label", label: "Name", hint: "such as North side down", wide: true }];
  for (let i = 0; i < steps; i++) {
    const nth = i === steps - 1 ? "another step" : `step ${i + 1}`;
    fields.push(
      { name: `steps.${i}.atMs`, label: `Time of ${nth}`, hint: "0 s", wide: true },
      {
        name: `steps.${i}.fail`,
        label: "Fails",
        hint: "links, devices, sites …",
        many: true,
        suggest: elements,
      },
      { name: `steps.${i}.shut`, label: "Shut down, announced", hint: "none", suggest: elements, many: true },
      { name: `steps.${i}.restore`, label: "Restored", hint: "none", suggest: elements, many: true },
    );
  }
  return fields;
}

/** The outage as typed, in the schema's own shape; empty steps are left out. */
function made(plan: Plan, outage: Outage | null, values: Values) {
  const label = typed(values, "label");
  const taken = plan.outages.map((entry) => entry.id);
  const steps = typedSteps(values).map((i) => ({
    atMs: parseDuration(typed(values, `steps.${i}.atMs`) ?? "0") ?? 0,
    fail: orNothing(listed(values, `steps.${i}.fail`)),
    shut: orNothing(listed(values, `steps.${i}.shut`)),
    restore: orNothing(listed(values, `steps.${i}.restore`)),
  }));
  const id = outage?.id ?? freeName(idOf(label ?? ""), taken);
  return withoutEmpty({ id, label, steps: steps.map(withoutEmpty) });
}

const orNothing = (list: string[]) => (list.length > 0 ? list : undefined);

/** The field that a path such as steps[1].fail[0] speaks of: its step is counted among those typed. */
function placed(path: string, values: Values): string {
  const [, step, part] = /steps\[(\d+)\](?:\.(\w+))?/.exec(path) ?? [];
  if (step === undefined) return path.endsWith("label") ? "label" : "form";
  const known = parts.find((name) => name === part) ?? "atMs";
  return `steps.${typedSteps(values)[Number(step)]}.${known}`;
}

function read(plan: Plan, outage: Outage | null, values: Values): FormReading {
  if (!outage && !typed(values, "label")) return { ok: false, errors: { label: "enter a name" } };
  if (typedSteps(values).length === 0)
    return {
      ok: false,
      errors: {
        "steps.0.fail": "choose at least one element that fails",
      },
    };
  const untimed = typedSteps(values).find(
    (i) => parseDuration(typed(values, `steps.${i}.atMs`) ?? "0") === null,
  );
  if (untimed !== undefined)
    return { ok: false, errors: { [`steps.${untimed}.atMs`]: `enter ${DURATION_FORMS}` } };
  const places = (path: string) => placed(path, values);
  const reading = readItem(outageSchema, made(plan, outage, values), places);
  if (!reading.ok) return reading;
  const name = reading.item.label ?? reading.item.id;
  const label = outage ? `Change the outage ${name}` : `Add the outage ${name}`;
  return tryEdit(plan, planItemEdit(label, "outages", outage, reading.item), places);
}

/** An outage: elements with their failure and restore times; a new one by default. */
export function outageForm(plan: Plan, outage: Outage | null, fresh: Values = {}): FormSpec {
  const initial: Record<string, string> = { ...fresh };
  if (outage) {
    initial.label = shown(outage.label);
    for (const [i, step] of outage.steps.entries())
      for (const part of parts)
        initial[`steps.${i}.${part}`] = part === "atMs" ? durationText(step.atMs) : shown(step[part]);
  }
  const name = outage && (outage.label ?? outage.id);
  return {
    title: outage ? `Edit the outage ${name}` : "Add outage",
    submit: outage ? "Save" : "Add outage",
    initial,
    removal: outage && planItemEdit(`Remove the outage ${name}`, "outages", outage, null),
    fields: (values) => fieldsOf(plan, values),
    read: (values) => {
      const untouched = Object.keys({ ...initial, ...values }).every(
        (field) => (values[field] ?? "") === (initial[field] ?? ""),
      );
      return outage && untouched ? { ok: true, edit: null } : read(plan, outage, values);
    },
  };
}
