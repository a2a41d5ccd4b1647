import { type Gateway, gatewaySchema, idOf, type Plan, removalOf } from "../../../core/plan/index.ts";
import { interfaceChoices } from "./choices.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm } from "./schema-form.ts";

/** A gateway: an exit that distinguishes flows; a new one by default. */
export function gatewayForm(plan: Plan, gateway: Gateway | null): FormSpec {
  const outside = new Set(plan.devices.filter(({ role }) => role === "internet").map(({ id }) => id));
  const ends = interfaceChoices(plan, (end) => !outside.has(end.slice(0, end.indexOf("/"))));
  const fill = (item: Record<string, unknown>, values: Values) => {
    const name = typed(values, "label") ?? typed(values, "at");
    const taken = plan.gateways.map((entry) => entry.id);
    return item.id || !name ? item : { ...item, id: freeName(idOf(name), taken) };
  };
  const form = schemaForm({
    plan,
    schema: gatewaySchema,
    wording: {
      label: { label: "Name", hint: "such as North fibre", wide: true },
      at: { label: "Exit interface", hint: "device and interface", suggest: ends, mono: true },
      via: { label: "Next hop", hint: "if several are behind it", mono: true },
      mbps: { label: "Capacity, Mbit/s", hint: "not set" },
      ...(gateway ? { id: { label: "Id", mono: true } } : {}),
    },
    item: gateway,
    fill,
    title: gateway ? `Edit the gateway ${gateway.label ?? gateway.id}` : "Add gateway",
    submit: gateway ? "Save" : "Add gateway",
    removal: gateway && removalOf(plan, { gateway: gateway.id }),
    edit: (after) => {
      const name = after.label ?? after.id;
      const label = gateway ? `Change the gateway ${name}` : `Add the gateway ${name}`;
      if (!gateway || gateway.id === after.id) return planItemEdit(label, "gateways", gateway, after);
      const place = (renamed: Plan): Plan => ({
        ...renamed,
        gateways: renamed.gateways.map((entry) => (entry.id === after.id ? after : entry)),
      });
      return renamingEdit({ plan, label, what: { gateway: gateway.id }, to: after.id, place });
    },
  });
  return {
    ...form,
    read: (values) =>
      typed(values, "at") ? form.read(values) : { ok: false, errors: { at: "choose the exit interface" } },
  };
}
