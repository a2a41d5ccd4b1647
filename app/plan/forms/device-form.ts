import {
  builtInProfiles,
  type Device,
  deviceSchema,
  deviceSettingsSchema,
  type Edit,
  type Plan,
  removalOf,
  roles,
  settingsOf,
} from "../../../core/plan/index.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, idOf, readItem, shown, tryEdit, typed, withoutEmpty } from "./reading.ts";

const forwardingOptions = [
  { value: "", label: "as its role has it" },
  { value: "true", label: "on" },
  { value: "false", label: "off" },
];

/** A device's own settings; a new device where none is given. */
export function deviceForm(plan: Plan, device: Device | null): FormSpec {
  const profiles = [...Object.keys(builtInProfiles), ...plan.profiles.map((profile) => profile.id)];
  const sites = [...new Set(plan.devices.flatMap((entry) => entry.site ?? []))];
  return {
    title: device ? `Edit ${device.label ?? device.id}` : "Add a device",
    submit: device ? "Keep it" : "Add the device",
    removal: device && removalOf(plan, { device: device.id }),
    initial: {
      label: shown(device?.label),
      id: shown(device?.id),
      role: device?.role ?? "router",
      site: shown(device?.site),
      profile: shown(device?.profile),
      ipv4: shown(device?.forwarding?.ipv4),
      ipv6: shown(device?.forwarding?.ipv6),
      note: shown(device?.note),
    },
    fields: () => [
      { name: "label", label: "Name", hint: "as people call it", wide: true },
      ...(device ? [] : [{ name: "id", label: "Id", hint: "from the name", mono: true }]),
      {
        name: "role",
        label: "Role",
        hint: "",
        options: roles.map((role) => ({ value: role, label: role })),
      },
      { name: "site", label: "Site", hint: "an id, such as harbour", suggest: sites },
      {
        name: "profile",
        label: "Behaves as",
        hint: "",
        options: [
          { value: "", label: "as its role has it" },
          ...profiles.map((id) => ({ value: id, label: id })),
        ],
      },
      { name: "ipv4", label: "Forwards IPv4", hint: "", options: forwardingOptions },
      { name: "ipv6", label: "Forwards IPv6", hint: "", options: forwardingOptions },
      { name: "note", label: "Note", hint: "any text", wide: true },
    ],
    read: (values) => (device ? readChange(plan, device, values) : readNew(plan, values)),
  };
}

function settingsFrom(values: Values) {
  const forwarding = withoutEmpty({
    ipv4: values.ipv4 ? values.ipv4 === "true" : undefined,
    ipv6: values.ipv6 ? values.ipv6 === "true" : undefined,
  });
  return {
    label: typed(values, "label"),
    role: values.role,
    site: typed(values, "site"),
    profile: typed(values, "profile"),
    forwarding: Object.keys(forwarding).length ? forwarding : undefined,
    note: typed(values, "note"),
  };
}

function readNew(plan: Plan, values: Values) {
  const label = typed(values, "label");
  const id =
    typed(values, "id") ??
    (label
      ? freeName(
          idOf(label),
          plan.devices.map((d) => d.id),
        )
      : "");
  if (id === "") return { ok: false, errors: { label: "give it a name, such as West router" } } as const;
  const reading = readItem(deviceSchema, withoutEmpty({ id, ...settingsFrom(values) }));
  if (!reading.ok) return reading;
  const edit: Edit = {
    label: `Add ${label ?? id}`,
    changes: [{ in: "plan", collection: "devices", before: null, after: reading.item }],
  };
  return tryEdit(plan, edit, "id");
}

function readChange(plan: Plan, device: Device, values: Values) {
  const before = settingsOf(device);
  const { label: _l, role: _r, site: _s, profile: _p, forwarding: _f, note: _n, ...kept } = before;
  const reading = readItem(deviceSettingsSchema, withoutEmpty({ ...kept, ...settingsFrom(values) }));
  if (!reading.ok) return reading;
  const edit: Edit = {
    label: `Change ${device.label ?? device.id}`,
    changes: [{ in: "device-settings", device: device.id, before, after: reading.item }],
  };
  return tryEdit(plan, edit);
}
