import {
  type Device,
  durationText,
  type Interface,
  type Plan,
  type VirtualRouter,
  virtualRouterSchema,
} from "../../../core/plan/index.ts";

import { DURATION_FORMS, parseDuration } from "./durations.ts";
import { deviceItemEdit } from "./edits.ts";
import type { FieldSpec, FormReading, FormSpec, Values } from "./item-form.tsx";
import { listed, numbered, readItem, shown, tryEdit, typed, withoutEmpty } from "./reading.ts";

const plain = [
  "id",
  "addresses",
  "priority",
  "preempt",
  "preemptDelayMs",
  "advertMs",
  "accept",
  "sync",
] as const;

const times = ["preemptDelayMs", "advertMs"] as const;
const isTime = (name: (typeof plain)[number]): name is (typeof times)[number] =>
  (times as readonly string[]).includes(name);

/** The tracked things of which anything is typed, by their place in the form. */
function typedTracks(values: Values): number[] {
  const places = Object.keys(values).flatMap((name) =>
    name.startsWith("track.") && typed(values, name) ? Number(name.split(".")[1]) : [],
  );
  return [...new Set(places.filter((place) => Number.isInteger(place)))].sort((a, b) => a - b);
}

function fieldsOf(device: Device, port: Interface, values: Values): FieldSpec[] {
  const tracked = [
    ...device.interfaces.filter((entry) => entry !== port).map(({ name }) => name),
    ...device.watches.map(({ id }) => ({ value: `watch:${id}`, label: `watch ${id}` })),
  ];
  const choice = (yes: string, no: string) => [
    { value: "true", label: yes },
    { value: "false", label: no },
  ];
  const fields: FieldSpec[] = [
    { name: "id", label: "Id", hint: "1 to 255, same on all members" },
    { name: "addresses", label: "Virtual addresses", hint: "172.20.16.1", mono: true, wide: true },
    { name: "priority", label: "Priority", hint: "100; the highest is Active" },
    { name: "preempt", label: "Preempts", hint: "", options: choice("yes", "no") },
    { name: "preemptDelayMs", label: "Preempt delay", hint: "0 s" },
    { name: "advertMs", label: "Advertisement interval", hint: "1 s" },
    {
      name: "accept",
      label: "Accepts packets to its address",
      hint: "",
      options: choice("yes", "no"),
    },
    { name: "sync", label: "Sync group", hint: "name shared by its members", mono: true },
  ];
  const rows = (typedTracks(values).at(-1) ?? -1) + 2;
  for (let i = 0; i < rows; i++) {
    const which = i === rows - 1 && i > 0 ? "Also tracks" : "Tracks";
    fields.push(
      { name: `track.${i}.what`, label: which, hint: "interface or watch", suggest: tracked, mono: true },
      { name: `track.${i}.lower`, label: "Lowers priority by", hint: "10" },
    );
  }
  return fields;
}

function made(values: Values) {
  const track = typedTracks(values).map((i) => {
    const what = typed(values, `track.${i}.what`) ?? "";
    const lower = numbered(values, `track.${i}.lower`);
    return withoutEmpty({
      ...(what.startsWith("watch:") ? { watch: what.slice("watch:".length) } : { interface: what }),
      lower,
    });
  });
  return withoutEmpty({
    id: numbered(values, "id"),
    addresses: listed(values, "addresses"),
    priority: numbered(values, "priority"),
    preempt: typed(values, "preempt") === "false" ? false : undefined,
    preemptDelayMs: parseDuration(typed(values, "preemptDelayMs") ?? "") ?? undefined,
    advertMs: parseDuration(typed(values, "advertMs") ?? "") ?? undefined,
    accept: typed(values, "accept") === "true" ? true : undefined,
    sync: typed(values, "sync"),
    track,
  });
}

/** The field of an error's path: tracked items are numbered by their input. */
function placed(path: string, values: Values): string {
  const [, row, part] = /track\[(\d+)\](?:\.(\w+))?/.exec(path) ?? [];
  if (row !== undefined)
    return `track.${typedTracks(values)[Number(row)]}.${part === "lower" ? "lower" : "what"}`;
  const inside = path.replace(/^.*virtual\[\d+\]\.?/, "");
  return plain.find((name) => inside.startsWith(name)) ?? "form";
}

/** A virtual router on an interface (RFC 9568); a new one without an index. */
export function virtualForm(plan: Plan, device: Device, port: Interface, index: number | null): FormSpec {
  const routers = port.virtual ?? [];
  const router = index === null ? null : (routers[index] ?? null);
  const where = `${port.name} of ${device.label ?? device.id}`;
  const initial: Record<string, string> = { preempt: "true", accept: "false" };
  if (router) {
    for (const name of plain) initial[name] = isTime(name) ? durationText(router[name]) : shown(router[name]);
    for (const [i, { watch, interface: name, lower }] of router.track.entries()) {
      initial[`track.${i}.what`] = watch === undefined ? shown(name) : `watch:${watch}`;
      initial[`track.${i}.lower`] = shown(lower);
    }
  }
  const editTo = (label: string, virtual: VirtualRouter[]) => {
    const { virtual: _virtual, ...rest } = port;
    const after: Interface = { ...rest, ...(virtual.length ? { virtual } : {}) };
    return deviceItemEdit(label, device, "interfaces", port, after);
  };
  const read = (values: Values): FormReading => {
    const places = (path: string) => placed(path, values);
    const wrong = times.filter((name) => {
      const text = typed(values, name);
      return text !== undefined && parseDuration(text) === null;
    });
    if (wrong.length > 0)
      return {
        ok: false,
        errors: Object.fromEntries(wrong.map((name) => [name, `enter ${DURATION_FORMS}`])),
      };
    const reading = readItem(virtualRouterSchema, made(values), places);
    if (!reading.ok) return reading;
    const virtual = router
      ? routers.map((entry) => (entry === router ? reading.item : entry))
      : [...routers, reading.item];
    const verb = router ? "Change" : "Add";
    return tryEdit(
      plan,
      editTo(`${verb} the virtual router ${reading.item.id} on ${where}`, virtual),
      places,
    );
  };
  return {
    title: router ? `Edit the virtual router ${router.id} on ${where}` : `Add virtual router to ${where}`,
    submit: router ? "Save" : "Add virtual router",
    initial,
    removal:
      router &&
      editTo(
        `Remove the virtual router ${router.id} from ${where}`,
        routers.filter((entry) => entry !== router),
      ),
    fields: (values) => fieldsOf(device, port, values),
    read: (values) => {
      const untouched = Object.keys({ ...initial, ...values }).every(
        (field) => (values[field] ?? "") === (initial[field] ?? ""),
      );
      return router && untouched ? { ok: true, edit: null } : read(values);
    },
  };
}
