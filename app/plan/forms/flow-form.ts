import { type Edit, type Flow, flowSchema, type Plan } from "../../../core/plan/index.ts";
import type { FormSpec } from "./item-form.tsx";
import {
  freeName,
  idOf,
  listed,
  numbered,
  readItem,
  shown,
  tryEdit,
  typed,
  withoutEmpty,
} from "./reading.ts";

const places = {
  "expect.carriers": "carriers",
  "expect.through": "through",
  "expect.maxOutageMs": "maxOutageMs",
  "expect.survive": "survive",
};

/** A flow: who sends what to whom, and what is expected of it; a new one where none is given. */
export function flowForm(plan: Plan, flow: Flow | null): FormSpec {
  const devices = plan.devices.map((device) => device.id);
  return {
    title: flow ? `Edit the flow ${flow.label ?? flow.id}` : "Add a flow",
    submit: flow ? "Keep it" : "Add the flow",
    removal: flow && {
      label: `Remove the flow ${flow.label ?? flow.id}`,
      changes: [{ in: "plan", collection: "flows", before: flow, after: null }],
    },
    initial: {
      label: shown(flow?.label),
      from: shown(flow?.from),
      to: shown(flow?.to),
      source: shown(flow?.source),
      protocol: flow?.protocol ?? "icmp",
      port: shown(flow?.port),
      rate: shown(flow?.rate),
      carriers: shown(flow?.expect?.carriers),
      through: shown(flow?.expect?.through),
      symmetric: shown(flow?.expect?.symmetric),
      maxOutageMs: shown(flow?.expect?.maxOutageMs),
      survive: shown(flow?.expect?.survive),
    },
    fields: (values) => [
      { name: "label", label: "Name", hint: "such as Desk to server", wide: true },
      { name: "from", label: "From", hint: "a device", suggest: devices, mono: true },
      { name: "to", label: "To", hint: "a device or an address", suggest: devices, mono: true },
      { name: "source", label: "Source address", hint: "as it chooses", mono: true },
      {
        name: "protocol",
        label: "Protocol",
        hint: "",
        options: ["icmp", "tcp", "udp"].map((value) => ({ value, label: value })),
      },
      ...(values.protocol === "icmp" ? [] : [{ name: "port", label: "Port", hint: "1 to 65535" }]),
      { name: "rate", label: "Packets a second", hint: "1" },
      {
        name: "carriers",
        label: "Expected to be carried by",
        hint: "gateways, in order",
        suggest: plan.gateways.map((gateway) => gateway.id),
        mono: true,
      },
      { name: "through", label: "Must pass", hint: "devices", suggest: devices, mono: true },
      {
        name: "symmetric",
        label: "Same way back",
        hint: "",
        options: [
          { value: "", label: "not asked for" },
          { value: "true", label: "yes" },
        ],
      },
      { name: "maxOutageMs", label: "Longest gap, ms", hint: "not limited" },
      { name: "survive", label: "Survives failures", hint: "0 to 3" },
    ],
    read: (values) => {
      const label = typed(values, "label");
      const from = typed(values, "from");
      const to = typed(values, "to");
      const errors: Record<string, string> = {};
      if (!from) errors.from = "who sends? A device, or device/interface";
      if (!to) errors.to = "to whom? An address or a device";
      if (!from || !to) return { ok: false, errors };
      const expect = withoutEmpty({
        ...flow?.expect,
        carriers: listed(values, "carriers").length ? listed(values, "carriers") : undefined,
        through: listed(values, "through").length ? listed(values, "through") : undefined,
        symmetric: values.symmetric === "true" ? true : undefined,
        maxOutageMs: numbered(values, "maxOutageMs"),
        survive: numbered(values, "survive"),
      });
      const taken = plan.flows.map((entry) => entry.id);
      const reading = readItem(
        flowSchema,
        withoutEmpty({
          id: flow?.id ?? freeName(idOf(label ?? `${from}-${to}`), taken),
          label,
          from,
          source: typed(values, "source"),
          to,
          protocol: values.protocol === "icmp" ? undefined : values.protocol,
          port: values.protocol === "icmp" ? undefined : numbered(values, "port"),
          rate: numbered(values, "rate"),
          expect: Object.keys(expect).length ? expect : undefined,
        }),
        places,
      );
      if (!reading.ok) return reading;
      const name = label ?? reading.item.id;
      const edit: Edit = {
        label: flow ? `Change the flow ${name}` : `Add the flow ${name}`,
        changes: [{ in: "plan", collection: "flows", before: flow, after: reading.item }],
      };
      return tryEdit(plan, edit);
    },
  };
}
