import { type Device, type Edit, type Plan, type Watch, watchSchema } from "../../../core/plan/index.ts";
import type { FieldSpec, FormSpec, Values } from "./item-form.tsx";
import { freeName, listed, numbered, readItem, shown, tryEdit, typed, withoutEmpty } from "./reading.ts";

const kindOptions = [
  { value: "bfd", label: "BFD session" },
  { value: "probe", label: "probe of an address" },
  { value: "interface", label: "interface state" },
  { value: "group", label: "group of watches" },
];

/** A watch of a device; a new one where none is given. */
export function watchForm(plan: Plan, device: Device, watch: Watch | null): FormSpec {
  const where = device.label ?? device.id;
  return {
    title: watch ? `Edit the watch ${watch.id} of ${where}` : `Add a watch to ${where}`,
    submit: watch ? "Keep it" : "Add the watch",
    removal: watch && {
      label: `Remove the watch ${watch.id} of ${where}`,
      changes: [{ in: "device", device: device.id, collection: "watches", before: watch, after: null }],
    },
    initial: {
      kind: "bfd",
      ...Object.fromEntries(Object.entries(watch ?? {}).map(([key, value]) => [key, shown(value)])),
    },
    fields: (values) => [
      { name: "id", label: "Name", hint: "such as far-a", mono: true },
      ...(watch ? [] : [{ name: "kind", label: "Kind", hint: "", options: kindOptions }]),
      ...fieldsOf(values.kind, device),
    ],
    read: (values) => {
      const taken = device.watches.map((entry) => entry.id);
      const id = typed(values, "id") ?? freeName(values.kind, taken);
      const reading = readItem(watchSchema, withoutEmpty({ id, kind: values.kind, ...itemOf(values) }));
      if (!reading.ok) return reading;
      const edit: Edit = {
        label: watch ? `Change the watch ${watch.id} of ${where}` : `Add the watch ${id} to ${where}`,
        changes: [
          { in: "device", device: device.id, collection: "watches", before: watch, after: reading.item },
        ],
      };
      return tryEdit(plan, edit);
    },
  };
}

function fieldsOf(kind: string, device: Device): FieldSpec[] {
  const ports = device.interfaces.map((port) => port.name);
  switch (kind) {
    case "probe":
      return [
        { name: "target", label: "Target", hint: "a far address", mono: true },
        { name: "out", label: "Out", hint: "pinned to", suggest: ports, mono: true },
        { name: "via", label: "Next hop", hint: "pinned to", mono: true },
        { name: "source", label: "Source", hint: "interface or address", suggest: ports, mono: true },
        { name: "intervalMs", label: "Interval, ms", hint: "10000" },
        { name: "timeoutMs", label: "Timeout, ms", hint: "1000" },
        { name: "failAfter", label: "Down after", hint: "3 missed" },
        { name: "recoverAfter", label: "Up after", hint: "1 answered" },
      ];
    case "interface":
      return [{ name: "interface", label: "Interface", hint: "such as wan1", suggest: ports, mono: true }];
    case "group":
      return [
        {
          name: "of",
          label: "Watches",
          hint: "far-a, far-b",
          suggest: device.watches.map((w) => w.id),
          mono: true,
        },
        { name: "need", label: "Up while", hint: "any, all, or a number are up" },
        { name: "downDelayMs", label: "Down delay, ms", hint: "0" },
        { name: "upDelayMs", label: "Up delay, ms", hint: "0" },
      ];
    default:
      return [
        { name: "interface", label: "Interface", hint: "such as wan1", suggest: ports, mono: true },
        { name: "peer", label: "Peer", hint: "its address", mono: true },
        { name: "minTxMs", label: "Send every, ms", hint: "300" },
        { name: "minRxMs", label: "Expect every, ms", hint: "300" },
        { name: "multiplier", label: "Multiplier", hint: "3" },
      ];
  }
}

function itemOf(values: Values): Record<string, unknown> {
  const text = (name: string) => typed(values, name);
  const number = (name: string) => numbered(values, name);
  switch (values.kind) {
    case "probe":
      return {
        target: text("target") ?? "",
        out: text("out"),
        via: text("via"),
        source: text("source"),
        intervalMs: number("intervalMs"),
        timeoutMs: number("timeoutMs"),
        failAfter: number("failAfter"),
        recoverAfter: number("recoverAfter"),
      };
    case "interface":
      return { interface: text("interface") ?? "" };
    case "group": {
      const need = text("need") ?? "any";
      return {
        of: listed(values, "of"),
        need: /^\d+$/.test(need) ? Number(need) : need,
        downDelayMs: number("downDelayMs"),
        upDelayMs: number("upDelayMs"),
      };
    }
    default:
      return {
        interface: text("interface") ?? "",
        peer: text("peer") ?? "",
        minTxMs: number("minTxMs"),
        minRxMs: number("minRxMs"),
        multiplier: number("multiplier"),
      };
  }
}
