import { type Flow, flowSchema, idOf, type Plan } from "../../../core/plan/index.ts";
import { planItemEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm, type Wording } from "./schema-form.ts";

function wordingOf(plan: Plan, values: Values): Wording {
  const devices = plan.devices.map((device) => device.id);
  const withPort = values.protocol === "tcp" || values.protocol === "udp";
  return {
    label: { label: "Name", hint: "such as Desk to server", wide: true },
    from: { label: "From", hint: "a device", suggest: devices, mono: true },
    to: { label: "To", hint: "a device or an address", suggest: devices, mono: true },
    source: { label: "Source address", hint: "as it chooses", mono: true },
    protocol: { label: "Protocol", none: "icmp" },
    port: { label: "Port", hint: "1 to 65535", when: () => withPort },
    rate: { label: "Packets a second", hint: "1" },
    mbps: { label: "Mbit/s", hint: "not said" },
    "expect.carriers": {
      label: "Expected to be carried by",
      hint: "gateways, in order",
      suggest: plan.gateways.map((gateway) => gateway.id),
      mono: true,
    },
    "expect.through": { label: "Must pass", hint: "devices", suggest: devices, mono: true },
    "expect.symmetric": {
      label: "Return path as the forward path",
      none: "not asked for",
      words: { true: "yes", false: "no" },
    },
    "expect.maxOutageMs": { label: "Longest outage, ms", hint: "not limited" },
    "expect.survive": { label: "Survives failures", hint: "0 to 3" },
  };
}

/** A flow: who sends what to whom, and what is expected of it; a new one where none is given. */
export function flowForm(plan: Plan, flow: Flow | null, fresh: Values = {}): FormSpec {
  const fill = (item: Record<string, unknown>, values: Values) => {
    const name = typed(values, "label") ?? `${typed(values, "from")}-${typed(values, "to")}`;
    const taken = plan.flows.map((entry) => entry.id);
    return item.id ? item : { ...item, id: freeName(idOf(name), taken) };
  };
  const form = schemaForm({
    plan,
    schema: flowSchema,
    wording: (values) => wordingOf(plan, values),
    item: flow,
    fresh,
    fill,
    title: flow ? `Edit the flow ${flow.label ?? flow.id}` : "Add a flow",
    submit: flow ? "Save" : "Add the flow",
    removal: flow && planItemEdit(`Remove the flow ${flow.label ?? flow.id}`, "flows", flow, null),
    edit: (after) => {
      const name = after.label ?? after.id;
      return planItemEdit(flow ? `Change the flow ${name}` : `Add the flow ${name}`, "flows", flow, after);
    },
  });
  const read = (values: Values) => {
    const errors: Record<string, string> = {};
    if (!typed(values, "from")) errors.from = "who sends? A device, or device/interface";
    if (!typed(values, "to")) errors.to = "to whom? An address or a device";
    return Object.keys(errors).length > 0 ? ({ ok: false, errors } as const) : form.read(values);
  };
  return { ...form, read };
}
