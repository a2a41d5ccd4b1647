import {
  formatAddress,
  nextAddress,
  parseInterfaceAddress,
  prefixOf,
  previousAddress,
  subnetAddressKind,
} from "../../../core/address/index.ts";
import {
  type Change,
  type Edit,
  type Interface,
  idOf,
  interfaceSchema,
  type Link,
  linkSchema,
  type Plan,
  removalOf,
} from "../../../core/plan/index.ts";
import { interfaceChoices, linkChoices } from "./choices.ts";
import { DURATION_FORMS, parseDuration } from "./durations.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormReading, FormSpec, Values } from "./item-form.tsx";
import { freeName, readItem, tryEdit, typed, withoutEmpty } from "./reading.ts";
import { schemaForm } from "./schema-form.ts";

const media = [
  { value: "cable", label: "cable: both ends detect a failure" },
  { value: "switch", label: "switch: each end detects only its own failure" },
  { value: "circuit", label: "circuit: no end detects a failure" },
  { value: "multipoint", label: "multipoint: many ends, no end detects a failure" },
];

/** A link that is there already: its name, its medium, its ends. An end more makes a shared segment of it. */
export function linkForm(plan: Plan, link: Link): FormSpec {
  const taken = new Set(plan.links.filter((entry) => entry !== link).flatMap((entry) => entry.ends));
  const ends = interfaceChoices(plan, (end) => !taken.has(end));
  return schemaForm({
    plan,
    schema: linkSchema,
    wording: {
      label: { label: "Name", hint: "such as North fibre", wide: true },
      medium: { label: "Medium", choices: media, none: "cable: both ends detect a failure", wide: true },
      ends: {
        label: "Ends",
        hint: "two or more interfaces",
        suggest: ends,
        mono: true,
        wide: true,
      },
      hub: {
        label: "Hub (multipoint)",
        hint: "none: all ends reach each other",
        suggest: interfaceChoices(plan, (end) => link.ends.includes(end)),
        mono: true,
      },
      delayMs: { label: "Delay", hint: "0 ms" },
      mbps: { label: "Capacity, Mbit/s", hint: "not set" },
      over: {
        label: "Rides on",
        hint: "underlying links",
        suggest: linkChoices(plan).filter(({ value }) => value !== link.id),
        mono: true,
        wide: true,
      },
      id: { label: "Id", mono: true },
      note: { label: "Note", hint: "any text", wide: true },
    },
    item: link,
    title: `Edit the link ${link.label ?? link.id}`,
    submit: "Save",
    removal: removalOf(plan, { link: link.id }),
    edit: (after) => {
      const label = `Change the link ${link.label ?? link.id}`;
      if (link.id === after.id) return planItemEdit(label, "links", link, after);
      const place = (renamed: Plan): Plan => ({
        ...renamed,
        links: renamed.links.map((entry) => (entry.id === after.id ? after : entry)),
      });
      return renamingEdit({ plan, label, what: { link: link.id }, to: after.id, place });
    },
  });
}

/** A new link between two devices. Named interfaces that do not exist are added with the given addresses; without a
 * name, a free one is used. The far address defaults to the neighbor of the near one. */
export function newLinkForm(plan: Plan, from: string | null): FormSpec {
  const devices = [
    { value: "", label: "choose" },
    ...plan.devices.map((d) => ({ value: d.id, label: d.label ?? d.id })),
  ];
  const ports = (id: string) =>
    plan.devices.find((d) => d.id === id)?.interfaces.map((port) => port.name) ?? [];
  return {
    title: "Add link",
    submit: "Add link",
    removal: null,
    initial: { a: from ?? "", b: "", medium: "cable" },
    fields: (values) => [
      { name: "a", label: "From", hint: "", options: devices },
      { name: "b", label: "To", hint: "", options: devices },
      {
        name: "aPort",
        label: "Interface at this end",
        hint: "new interface",
        suggest: ports(values.a ?? ""),
        mono: true,
      },
      {
        name: "bPort",
        label: "Interface at the far end",
        hint: "new interface",
        suggest: ports(values.b ?? ""),
        mono: true,
      },
      { name: "aAddress", label: "Address at this end", hint: "10.0.0.1/30", mono: true },
      { name: "bAddress", label: "Address at the far end", hint: farHint(values), mono: true },
      { name: "medium", label: "Medium", hint: "", options: media, wide: true },
      { name: "label", label: "Name", hint: "such as North fibre" },
      { name: "delayMs", label: "Delay", hint: "0 ms" },
    ],
    read: (values) => readNew(plan, values),
  };
}

function farHint(values: Values): string {
  const text = typed(values, "aAddress");
  return (text && neighbourOf(text)) || "10.0.0.2/30";
}

/** The other address of a transfer network; null if there is none. */
function neighbourOf(text: string): string | null {
  const own = parseInterfaceAddress(text);
  if (!own) return null;
  const subnet = prefixOf(own.address, own.length);
  for (const address of [nextAddress(own.address), previousAddress(own.address)]) {
    if (!address) continue;
    const other = prefixOf(address, own.length);
    const within = formatAddress(other.address) === formatAddress(subnet.address);
    if (within && !subnetAddressKind(subnet, address)) return `${formatAddress(address)}/${own.length}`;
  }
  return null;
}

function readNew(plan: Plan, values: Values): FormReading {
  const errors: Record<string, string> = {};
  if (!values.a) errors.a = "choose the first device";
  if (!values.b) errors.b = "choose the second device";
  else if (values.a === values.b) errors.b = "choose two different devices";
  if (Object.keys(errors).length) return { ok: false, errors };
  const near = endOf(plan, values, "a", values.b, typed(values, "aAddress"));
  const far = endOf(
    plan,
    values,
    "b",
    values.a,
    typed(values, "bAddress") ??
      (typed(values, "aAddress") ? (neighbourOf(values.aAddress) ?? undefined) : undefined),
  );
  for (const end of [near, far]) if (!end.ok) Object.assign(errors, end.errors);
  if (!near.ok || !far.ok) return { ok: false, errors };
  const delay = typed(values, "delayMs");
  if (delay !== undefined && parseDuration(delay) === null)
    return { ok: false, errors: { delayMs: `enter ${DURATION_FORMS}` } };
  const label = typed(values, "label");
  const id = freeName(
    idOf(label ?? `${values.a}-${values.b}`),
    plan.links.map((link) => link.id),
  );
  const reading = readItem(
    linkSchema,
    withoutEmpty({
      id,
      label,
      medium: values.medium,
      ends: [`${values.a}/${near.name}`, `${values.b}/${far.name}`],
      delayMs: parseDuration(typed(values, "delayMs") ?? "") ?? undefined,
    }),
  );
  if (!reading.ok) return reading;
  const edit: Edit = {
    label: `Join ${values.a} and ${values.b}`,
    changes: [
      ...near.changes,
      ...far.changes,
      { in: "plan", collection: "links", before: null, after: reading.item },
    ],
  };
  return tryEdit(plan, edit);
}

type End = { ok: true; name: string; changes: Change[] } | { ok: false; errors: Record<string, string> };

function endOf(plan: Plan, values: Values, side: "a" | "b", other: string, address: string | undefined): End {
  const device = plan.devices.find((entry) => entry.id === values[side]);
  if (!device) return { ok: false, errors: { [side]: "there is no such device" } };
  const taken = device.interfaces.map((port) => port.name);
  const name = typed(values, `${side}Port`) ?? freeName(other.slice(0, 12), taken);
  const before = device.interfaces.find((port) => port.name === name) ?? null;
  const end = `${device.id}/${name}`;
  if (before && plan.links.some((link) => link.ends.includes(end)))
    return { ok: false, errors: { [`${side}Port`]: `${name} is on a link already` } };
  const addresses = [...(before?.addresses ?? []), ...(address ? [address] : [])];
  const reading = readItem(
    interfaceSchema,
    { ...(before ?? { name }), addresses: [...new Set(addresses)] },
    {
      name: `${side}Port`,
      addresses: `${side}Address`,
    },
  );
  if (!reading.ok) return reading;
  const after: Interface = reading.item;
  const changes: Change[] =
    before && before.addresses.length === after.addresses.length
      ? []
      : [{ in: "device", device: device.id, collection: "interfaces", before, after }];
  return { ok: true, name, changes };
}
