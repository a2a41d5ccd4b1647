import type { z } from "zod";
import { type Device, type Plan, removalOf, type Watch, watchSchema } from "../../../core/plan/index.ts";
import { deviceItemEdit, renamingEdit, withDevice } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm, type Wording } from "./schema-form.ts";

const kinds = {
  bfd: "BFD session",
  probe: "probe",
  interface: "interface state",
  route: "active route",
  group: "group of watches",
};
type Kind = keyof typeof kinds;

function wordingOf(kind: Kind, device: Device): Wording {
  const ports = device.interfaces.map((port) => port.name);
  const id = { id: { label: "Name", hint: "such as far-a", mono: true } };
  const port = { label: "Interface", hint: "such as wan1", suggest: ports, mono: true };
  switch (kind) {
    case "probe":
      return {
        ...id,
        target: { label: "Target", hint: "address beyond the next hop", mono: true },
        out: { label: "Pinned interface", hint: "automatic", suggest: ports, mono: true },
        via: { label: "Pinned next hop", hint: "automatic", mono: true },
        source: { label: "Source", hint: "interface or address", suggest: ports, mono: true },
        intervalMs: { label: "Interval", hint: "10 s" },
        timeoutMs: { label: "Timeout", hint: "1 s" },
        failAfter: { label: "Down after", hint: "3 missed" },
        recoverAfter: { label: "Up after", hint: "1 reply" },
      };
    case "interface":
      return { ...id, interface: port };
    case "route":
      return {
        ...id,
        to: { label: "Destination", hint: "up while a route to exactly this prefix is active", mono: true },
        vrf: { label: "VRF", hint: "main", mono: true },
      };
    case "group":
      return {
        ...id,
        of: {
          label: "Watches",
          hint: "far-a, far-b",
          suggest: device.watches.map((watch) => watch.id),
          mono: true,
        },
        need: { label: "Up while", hint: "any, all or a number must be up" },
        downDelayMs: { label: "Down delay", hint: "0 s" },
        upDelayMs: { label: "Up delay", hint: "0 s" },
      };
    case "bfd":
      return {
        ...id,
        interface: port,
        peer: { label: "Peer", hint: "address of the peer", mono: true },
        minTxMs: { label: "Transmit interval", hint: "300 ms" },
        minRxMs: { label: "Receive interval", hint: "300 ms" },
        multiplier: { label: "Multiplier", hint: "3" },
      };
  }
}

/** The schema of one kind of watch. */
function schemaOf(kind: Kind): z.ZodType<Watch> {
  const found = watchSchema.options.find((option) => option.shape.kind.value === kind);
  return (found ?? watchSchema.options[0]) as z.ZodType<Watch>;
}

/** A watch of a device; a new one by default. */
export function watchForm(plan: Plan, device: Device, watch: Watch | null): FormSpec {
  const where = device.label ?? device.id;
  const formOf = (kind: Kind) =>
    schemaForm({
      plan,
      schema: schemaOf(kind),
      wording: wordingOf(kind, device),
      item: watch,
      fill: (item) => ({
        ...item,
        kind,
        ...(kind === "group" && item.need === undefined ? { need: "any" } : {}),
        id:
          item.id ??
          freeName(
            kind,
            device.watches.map((entry) => entry.id),
          ),
      }),
      title: watch ? `Edit the watch ${watch.id} of ${where}` : `Add watch to ${where}`,
      submit: watch ? "Save" : "Add watch",
      removal: watch && removalOf(plan, { watch: watch.id, of: device.id }),
      edit: (after) => {
        const label = watch
          ? `Change the watch ${watch.id} of ${where}`
          : `Add the watch ${after.id} to ${where}`;
        if (!watch || watch.id === after.id) return deviceItemEdit(label, device, "watches", watch, after);
        const place = (renamed: Plan) =>
          withDevice(renamed, device.id, (other) => ({
            ...other,
            watches: other.watches.map((entry) => (entry.id === after.id ? after : entry)),
          }));
        return renamingEdit({ plan, label, what: { watch: watch.id, of: device.id }, to: after.id, place });
      },
    });
  if (watch) return formOf(watch.kind);
  const kindOf = (values: Values) => (typed(values, "kind") ?? "bfd") as Kind;
  const options = Object.entries(kinds).map(([value, label]) => ({ value, label }));
  return {
    ...formOf("bfd"),
    initial: { kind: "bfd" },
    fields: (values) => {
      const [id, ...rest] = formOf(kindOf(values)).fields(values);
      return [id, { name: "kind", label: "Kind", hint: "", options }, ...rest];
    },
    read: (values) => formOf(kindOf(values)).read(values),
  };
}
