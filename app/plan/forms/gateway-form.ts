import { type Edit, type Gateway, gatewaySchema, type Plan, removalOf } from "../../../core/plan/index.ts";
import type { FormSpec } from "./item-form.tsx";
import { freeName, idOf, readItem, shown, tryEdit, typed, withoutEmpty } from "./reading.ts";

/** A gateway: an exit that flows are told apart by; a new one where none is given. */
export function gatewayForm(plan: Plan, gateway: Gateway | null): FormSpec {
  const ends = plan.devices
    .filter((device) => device.role !== "internet")
    .flatMap((device) => device.interfaces.map((port) => `${device.id}/${port.name}`));
  return {
    title: gateway ? `Edit the gateway ${gateway.label ?? gateway.id}` : "Add a gateway",
    submit: gateway ? "Keep it" : "Add the gateway",
    removal: gateway && removalOf(plan, { gateway: gateway.id }),
    initial: { label: shown(gateway?.label), at: shown(gateway?.at), via: shown(gateway?.via) },
    fields: () => [
      { name: "label", label: "Name", hint: "such as North fibre", wide: true },
      { name: "at", label: "Exit", hint: "device/interface", suggest: ends, mono: true },
      { name: "via", label: "Next hop", hint: "where several stand behind it", mono: true },
    ],
    read: (values) => {
      const label = typed(values, "label");
      const at = typed(values, "at");
      if (!at) return { ok: false, errors: { at: "which exit? device/interface" } };
      const taken = plan.gateways.map((entry) => entry.id);
      const reading = readItem(
        gatewaySchema,
        withoutEmpty({
          id: gateway?.id ?? freeName(idOf(label ?? at), taken),
          label,
          at,
          via: typed(values, "via"),
        }),
      );
      if (!reading.ok) return reading;
      const name = label ?? reading.item.id;
      const edit: Edit = {
        label: gateway ? `Change the gateway ${name}` : `Add the gateway ${name}`,
        changes: [{ in: "plan", collection: "gateways", before: gateway, after: reading.item }],
      };
      return tryEdit(plan, edit, "at");
    },
  };
}
