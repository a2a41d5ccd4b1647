import { type Flow, flowSchema, idOf, type Plan } from "../../../core/plan/index.ts";
import { deviceChoices, gatewayChoices } from "./choices.ts";
import { planItemEdit } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm, type Wording } from "./schema-form.ts";

function wordingOf(plan: Plan, values: Values): Wording {
  const devices = deviceChoices(plan);
  const withPort = values.protocol === "tcp" || values.protocol === "udp";
  return {
    label: { label: "Name", hint: "such as Desk to server", wide: true },
    from: { label: "From", hint: "device", suggest: devices, mono: true },
    to: { label: "To", hint: "address or device", suggest: devices, mono: true },
    source: { label: "Source address", hint: "automatic", mono: true },
    protocol: { label: "Protocol", none: "icmp" },
    port: { label: "Port", hint: "1 to 65535", when: () => withPort },
    rate: { label: "Packets per second", hint: "1" },
    mbps: { label: "Bandwidth, Mbit/s", hint: "not set" },
    sessionTimeoutMs: { label: "Session timeout", hint: "TCP 60 s, others none" },
    "expect.verdict": { label: "Expected result", none: "works", words: { denied: "denied" } },
    "expect.carriers": {
      label: "Expected gateways",
      hint: "in order of preference",
      suggest: gatewayChoices(plan),
      mono: true,
    },
    "expect.through": { label: "Must pass", hint: "devices", suggest: devices, mono: true },
    "expect.symmetric": {
      label: "Return path equals forward path",
      none: "not required",
      words: { true: "yes", false: "no" },
    },
    "expect.maxOutageMs": { label: "Maximum outage", hint: "no limit, or 2 s" },
    "expect.survive": { label: "Must survive, failures", hint: "0 to 3" },
  };
}

/** A flow: its ends and its expectation; a new one by default. */
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
    title: flow ? `Edit the flow ${flow.label ?? flow.id}` : "Add flow",
    submit: flow ? "Save" : "Add flow",
    removal: flow && planItemEdit(`Remove the flow ${flow.label ?? flow.id}`, "flows", flow, null),
    edit: (after) => {
      const name = after.label ?? after.id;
      return planItemEdit(flow ? `Change the flow ${name}` : `Add the flow ${name}`, "flows", flow, after);
    },
  });
  const read = (values: Values) => {
    const errors: Record<string, string> = {};
    if (!typed(values, "from")) errors.from = "enter the sender: a device or device/interface";
    if (!typed(values, "to")) errors.to = "enter the destination: an address or a device";
    return Object.keys(errors).length > 0 ? ({ ok: false, errors } as const) : form.read(values);
  };
  return { ...form, read };
}
