import { formatRouteLine } from "../../../core/authoring/index.ts";
import {
  type DestinationNat,
  type Device,
  type DeviceSettings,
  destinationNatSchema,
  deviceSettingsSchema,
  type Edit,
  type LearnedRoute,
  learnedRouteSchema,
  type MarkRule,
  markSchema,
  type Plan,
  type PolicyRule,
  type PolicyTable,
  policyRuleSchema,
  policyTableSchema,
  type SourceNat,
  type StaticRoute,
  settingsOf,
  sourceNatSchema,
  staticRouteSchema,
} from "../../../core/plan/index.ts";
import { deviceItemEdit } from "./edits.ts";
import type { FormSpec } from "./item-form.tsx";
import { schemaForm, type Wording } from "./schema-form.ts";

const nameOf = (device: Device) => device.label ?? device.id;
const portsOf = (device: Device) => device.interfaces.map((port) => port.name);
const zonesOf = (device: Device) => [...new Set(device.interfaces.flatMap((port) => port.zone ?? []))];

function settingsEdit(label: string, device: Device, after: DeviceSettings): Edit {
  return {
    label,
    changes: [{ in: "device-settings", device: device.id, before: settingsOf(device), after }],
  };
}

/** Source translation on an exit; a new one by default. */
export function translationForm(plan: Plan, device: Device, nat: SourceNat | null): FormSpec {
  const where = nameOf(device);
  return schemaForm({
    plan,
    schema: sourceNatSchema,
    wording: {
      out: { label: "Outgoing interface", hint: "interface", suggest: portsOf(device), mono: true },
      from: { label: "From", hint: "any, or prefixes", mono: true },
      to: { label: "New source", hint: "interface or address", suggest: ["interface"], mono: true },
    },
    item: nat,
    fresh: { to: "interface" },
    title: nat ? `Edit the translation on ${nat.out} of ${where}` : `Add source translation to ${where}`,
    submit: nat ? "Save" : "Add translation",
    removal:
      nat &&
      deviceItemEdit(`Remove the translation on ${nat.out} of ${where}`, device, "sourceNat", nat, null),
    edit: (after) =>
      deviceItemEdit(
        nat
          ? `Change the translation on ${nat.out} of ${where}`
          : `Translate traffic leaving ${where} by ${after.out}`,
        device,
        "sourceNat",
        nat,
        after,
      ),
  });
}

/** What a packet must be like, as the forms of marks and policy tables ask for it. */
function steeredWording(device: Device, at: "" | "match."): Wording {
  return {
    [`${at}in`]: {
      label: "Incoming interfaces",
      hint: "any interface",
      suggest: portsOf(device),
      mono: true,
    },
    [`${at}from`]: { label: "Source prefixes", hint: "any, or prefixes", mono: true },
    [`${at}to`]: { label: "Destination prefixes", hint: "any, or prefixes", mono: true },
    [`${at}protocol`]: { label: "Protocol", none: "any" },
    [`${at}port`]: { label: "Destination port", hint: "any, 443 or 8000-8099" },
  };
}

/** A list that a device's settings hold, with one entry changed, added at the end (`index` null) or removed. */
function withEntry<T>(
  list: readonly T[] | undefined,
  index: number | null,
  after: T | null,
): T[] | undefined {
  const all = list ?? [];
  const next =
    after === null ? all.toSpliced(index ?? 0, 1) : index === null ? [...all, after] : all.with(index, after);
  return next.length > 0 ? next : undefined;
}

/** Destination translation of what arrives; the first that matches decides, and a new one goes to the end. */
export function destinationForm(plan: Plan, device: Device, index: number | null): FormSpec {
  const before = settingsOf(device);
  const nat = index === null ? null : (before.destNat?.[index] ?? null);
  const where = nameOf(device);
  const after = (one: DestinationNat | null) => ({
    ...before,
    destNat: withEntry(before.destNat, index, one),
  });
  return schemaForm({
    plan,
    schema: destinationNatSchema,
    wording: {
      in: { label: "Incoming interfaces", hint: "interface", suggest: portsOf(device), mono: true },
      to: { label: "Destination", hint: "address", mono: true },
      protocol: { label: "Protocol", none: "any" },
      port: { label: "Port", hint: "any" },
      via: { label: "New destination", hint: "address", mono: true },
      viaPort: { label: "New port", hint: "unchanged" },
    },
    item: nat,
    title: nat
      ? `Edit the destination translation of ${nat.to} on ${where}`
      : `Add destination translation to ${where}`,
    submit: nat ? "Save" : "Add translation",
    removal:
      nat && settingsEdit(`Remove the destination translation of ${nat.to} on ${where}`, device, after(null)),
    edit: (one) =>
      settingsEdit(
        nat
          ? `Change the destination translation of ${nat.to} on ${where}`
          : `Translate destination ${one.to} to ${one.via} on ${where}`,
        device,
        after(one),
      ),
  });
}

/** A mark set on packets that arrive; of all that match, the last decides. A new one goes to the end. */
export function markForm(plan: Plan, device: Device, index: number | null): FormSpec {
  const before = settingsOf(device);
  const mark = index === null ? null : (before.marks?.[index] ?? null);
  const where = nameOf(device);
  const after = (one: MarkRule | null) => ({ ...before, marks: withEntry(before.marks, index, one) });
  return schemaForm({
    plan,
    schema: markSchema,
    wording: { set: { label: "Mark", hint: "1 to 4294967295" }, ...steeredWording(device, "") },
    item: mark,
    title: mark ? `Edit mark ${mark.set} of ${where}` : `Add mark to ${where}`,
    submit: mark ? "Save" : "Add mark",
    removal: mark && settingsEdit(`Remove mark ${mark.set} of ${where}`, device, after(null)),
    edit: (one) =>
      settingsEdit(
        `${mark ? "Change" : "Add"} mark ${one.set} ${mark ? "of" : "on"} ${where}`,
        device,
        after(one),
      ),
  });
}

/** A firewall's action without a matching rule: between zones, within one, and by order of trust. */
export function policyForm(plan: Plan, device: Device): FormSpec {
  const before = settingsOf(device);
  const where = nameOf(device);
  const form = schemaForm({
    plan,
    schema: deviceSettingsSchema,
    wording: {
      "policy.default": { label: "Between zones", none: "profile default" },
      "policy.sameZone": { label: "Within a zone", none: "profile default" },
      "policy.trust": {
        label: "Zones by trust, most trusted first",
        hint: "inside, outside: new flows pass from more to less trusted",
        suggest: zonesOf(device),
        mono: true,
        wide: true,
      },
    },
    item: before,
    title: `Policy of ${where}`,
    submit: "Save",
    removal: before.policy
      ? settingsEdit(`Remove the policy of ${where}`, device, { ...before, policy: undefined })
      : null,
    edit: (after) => settingsEdit(`Change the policy of ${where}`, device, after),
  });
  return form;
}

/** A rule of a firewall's policy: the first that fits decides. A new one goes to the end. */
export function ruleForm(plan: Plan, device: Device, index: number | null): FormSpec {
  const before = settingsOf(device);
  const rules = before.policy?.rules ?? [];
  const rule = index === null ? null : (rules[index] ?? null);
  const where = nameOf(device);
  const withRules = (after: PolicyRule | null): DeviceSettings => ({
    ...before,
    policy: { ...before.policy, rules: withEntry(rules, index, after) ?? [] },
  });
  const zones = zonesOf(device);
  const number = (index ?? rules.length) + 1;
  return schemaForm({
    plan,
    schema: policyRuleSchema,
    wording: {
      action: { label: "Action" },
      protocol: { label: "Protocol", none: "any" },
      from: { label: "From zones", hint: "any", suggest: zones, mono: true },
      to: { label: "To zones", hint: "any", suggest: zones, mono: true },
      source: { label: "Source", hint: "any, or prefixes", mono: true },
      destination: { label: "Destination", hint: "any, or prefixes", mono: true },
      port: { label: "Port", hint: "any, 443 or 8000-8099" },
    },
    item: rule,
    fresh: { action: "allow" },
    title: rule ? `Edit rule ${number} of ${where}` : `Add rule to ${where}`,
    submit: rule ? "Save" : "Add rule",
    removal:
      index !== null && rule
        ? settingsEdit(`Remove rule ${number} of ${where}`, device, withRules(null))
        : null,
    edit: (after) =>
      settingsEdit(
        rule ? `Change rule ${number} of ${where}` : `Add rule ${number} to ${where}`,
        device,
        withRules(after),
      ),
  });
}

/** A table that some packets use first, selected by ingress or source; also a cloud's subnet table. */
export function tableForm(plan: Plan, device: Device, table: PolicyTable | null): FormSpec {
  const where = nameOf(device);
  return schemaForm({
    plan,
    schema: policyTableSchema,
    wording: {
      name: { label: "Name", hint: "such as guests", mono: true },
      lookup: {
        label: "Lookup",
        words: {
          first: "first, then the main table",
          overlay: "with the main table: longest match of both",
        },
        wide: true,
      },
      ...steeredWording(device, "match."),
      "match.mark": { label: "Mark", hint: "any" },
    },
    item: table,
    // A cloud's subnet table overlays the network's own routes (rule 8).
    fresh: { lookup: device.role === "cloud" ? "overlay" : "first" },
    title: table ? `Edit the policy table ${table.name} of ${where}` : `Add policy table to ${where}`,
    submit: table ? "Save" : "Add policy table",
    removal:
      table &&
      deviceItemEdit(
        `Remove the policy table ${table.name} of ${where}`,
        device,
        "policyTables",
        table,
        null,
      ),
    edit: (after) =>
      deviceItemEdit(
        table
          ? `Change the policy table ${table.name} of ${where}`
          : `Add the policy table ${after.name} to ${where}`,
        device,
        "policyTables",
        table,
        after,
      ),
  });
}

function routeWording(device: Device): Wording {
  const ports = portsOf(device);
  return {
    to: { label: "Destination", hint: "prefix", mono: true },
    via: { label: "Next hop", hint: "address", mono: true },
    viaFrom: {
      label: "Next hop assigned on",
      hint: "interface",
      suggest: device.interfaces.filter((port) => port.gatewayFrom).map((port) => port.name),
      mono: true,
    },
    out: { label: "Outgoing interface", hint: "interface", suggest: ports, mono: true },
    discard: { label: "Discard", none: "no" },
    toVrf: { label: "Look up in VRF", hint: "", mono: true },
    vrf: { label: "VRF", hint: "main", mono: true },
    distance: { label: "Distance", hint: "1 to 255" },
    metric: { label: "Metric", hint: "0" },
    weight: { label: "Weight among equal routes", hint: "1" },
    watch: { label: "Only while watch is up", suggest: device.watches.map((watch) => watch.id), mono: true },
    resolve: {
      label: "Next hop resolves through",
      none: "profile default",
      words: { connected: "attached networks", any: "any route" },
    },
    onLink: { label: "Next hop on link", none: "by its subnet" },
    enabled: { label: "State", none: "enabled", words: { true: "enabled", false: "disabled" } },
    note: { label: "Note", hint: "any text", wide: true },
  };
}

/** A static route of a policy table; a new one by default. */
export function tableRouteForm(
  plan: Plan,
  device: Device,
  table: PolicyTable,
  route: StaticRoute | null,
): FormSpec {
  const where = `table ${table.name} of ${nameOf(device)}`;
  const change = (label: string, before: StaticRoute | null, after: StaticRoute | null): Edit => ({
    label,
    changes: [{ in: "policy-table", device: device.id, table: table.name, before, after }],
  });
  return schemaForm({
    plan,
    schema: staticRouteSchema,
    wording: routeWording(device),
    item: route,
    title: route ? `Edit route of ${where}` : `Add route to ${where}`,
    submit: route ? "Save" : "Add route",
    removal: route && change(`Remove ${formatRouteLine(route)} from ${where}`, route, null),
    edit: (after) =>
      change(`${route ? "Change" : "Add"} ${formatRouteLine(after)} in ${where}`, route, after),
  });
}

/** A route known from a routing protocol; a new one by default. */
export function learnedForm(plan: Plan, device: Device, route: LearnedRoute | null): FormSpec {
  const where = nameOf(device);
  return schemaForm({
    plan,
    schema: learnedRouteSchema,
    wording: {
      to: { label: "Destination", hint: "prefix", mono: true },
      protocol: { label: "Protocol", hint: "ospf", suggest: ["ospf", "isis", "bgp", "rip"], mono: true },
      via: { label: "Next hop", hint: "address", mono: true },
      out: { label: "Outgoing interface", hint: "interface", suggest: portsOf(device), mono: true },
      distance: { label: "Distance", hint: "1 to 255" },
      metric: { label: "Metric", hint: "0" },
      vrf: { label: "VRF", hint: "main", mono: true },
      lostAfterMs: { label: "Withdrawn after", hint: "hold time or dead interval; empty: not known" },
      backAfterMs: { label: "Restored after", hint: "0 s: immediately" },
    },
    item: route,
    title: route ? `Edit learned route of ${where}` : `Add learned route to ${where}`,
    submit: route ? "Save" : "Add learned route",
    removal:
      route &&
      deviceItemEdit(`Remove the learned route to ${route.to} of ${where}`, device, "learned", route, null),
    edit: (after) =>
      deviceItemEdit(
        `${route ? "Change" : "Add"} the learned route to ${after.to} on ${where}`,
        device,
        "learned",
        route,
        after,
      ),
  });
}
