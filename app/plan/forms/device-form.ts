import {
  builtInProfiles,
  type Device,
  deviceSchema,
  deviceSettingsSchema,
  idOf,
  type Plan,
  removalOf,
  roles,
  settingsOf,
} from "../../../core/plan/index.ts";
import { planItemEdit, renamingEdit, withDevice } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { freeName, typed } from "./reading.ts";
import { schemaForm, type Wording } from "./schema-form.ts";

const onOff = { true: "on", false: "off" };

function wordingOf(plan: Plan, isNew: boolean): Wording {
  const profiles = [...Object.keys(builtInProfiles), ...plan.profiles.map((profile) => profile.id)];
  return {
    label: { label: "Name", hint: "such as West router", wide: true },
    id: { label: "Id", hint: isNew ? "from the name" : "", mono: true },
    role: { label: "Role" },
    site: {
      label: "Site",
      hint: "such as harbour",
      suggest: [...new Set(plan.devices.flatMap((entry) => entry.site ?? []))],
    },
    profile: {
      label: "Profile",
      none: "role default",
      choices: profiles.map((id) => ({ value: id, label: id })),
    },
    "forwarding.ipv4": { label: "Forwards IPv4", none: "role default", words: onOff },
    "forwarding.ipv6": { label: "Forwards IPv6", none: "role default", words: onOff },
    announces: {
      label: "Announced prefixes",
      hint: "203.0.113.0/24, 2001:db8::/32",
      mono: true,
      wide: true,
      when: (values) => values.role === "provider",
    },
    reserved: {
      label: "Reserved addresses of each subnet",
      hint: "number, such as 3",
      when: (values) => values.role === "cloud",
    },
    bootMs: { label: "Boot time", hint: "0" },
    outline: {
      label: "Outlined",
      none: "no",
      words: { true: "yes: not modeled beyond this device", false: "no" },
    },
    note: { label: "Note", hint: "any text", wide: true },
  };
}

/** A device's own settings; a new device by default. */
export function deviceForm(plan: Plan, device: Device | null): FormSpec {
  return device ? changedDevice(plan, device) : newDevice(plan);
}

function newDevice(plan: Plan): FormSpec {
  const fill = (item: Record<string, unknown>, values: Values) => {
    const label = typed(values, "label");
    const taken = plan.devices.map((device) => device.id);
    return typed(values, "id") || !label ? item : { ...item, id: freeName(idOf(label), taken) };
  };
  const form = schemaForm({
    plan,
    schema: deviceSchema,
    wording: wordingOf(plan, true),
    item: null,
    fresh: { role: roles[0] },
    fill,
    title: "Add device",
    submit: "Add device",
    removal: null,
    edit: (item) => planItemEdit(`Add ${item.label ?? item.id}`, "devices", null, item),
  });
  return {
    ...form,
    read: (values) =>
      typed(values, "label") || typed(values, "id")
        ? form.read(values)
        : { ok: false, errors: { label: "enter a name, such as West router" } },
  };
}

function changedDevice(plan: Plan, device: Device): FormSpec {
  const name = device.label ?? device.id;
  const before = settingsOf(device);
  return schemaForm({
    plan,
    schema: deviceSettingsSchema,
    wording: wordingOf(plan, false),
    item: before,
    title: `Edit ${name}`,
    submit: "Save",
    removal: removalOf(plan, { device: device.id }),
    edit: (after) => {
      const label = `Change ${name}`;
      if (after.id === device.id)
        return { label, changes: [{ in: "device-settings", device: device.id, before, after }] };
      const place = (renamed: Plan) => withDevice(renamed, after.id, (other) => ({ ...other, ...after }));
      return renamingEdit({ plan, label, what: { device: device.id }, to: after.id, place });
    },
  });
}
