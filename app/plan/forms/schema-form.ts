import type { z } from "zod";
import {
  applyEdit,
  durationText,
  type Edit,
  errorsOfIssues,
  type Plan,
  sameValue,
} from "../../../core/plan/index.ts";

import { DURATION_FORMS, parseDuration } from "./durations.ts";
import type { FieldSpec, FormReading, FormSpec, Values } from "./item-form.tsx";
import { listed, numbered, shown, typed, withoutEmpty } from "./reading.ts";

/** What a form says of a field of a schema, beyond what the schema itself says. */
export interface FieldOptions {
  label: string;
  hint?: string;
  suggest?: FieldSpec["suggest"];
  /** Words for the values of a choice. */
  words?: Readonly<Record<string, string>>;
  /** The meaning of an empty choice. */
  none?: string;
  /** Choices where the schema takes any name. */
  choices?: readonly { value: string; label: string }[];
  mono?: boolean;
  wide?: boolean;
  /** Whether the field applies, given the other values. */
  when?: (values: Values) => boolean;
}

/** Fields by their path in the item, such as "to" or "match.in", in the order in which they are drawn. */
export type Wording = Readonly<Record<string, FieldOptions>>;

interface Shape {
  readonly [name: string]: z.ZodType;
}

interface Definition {
  type: string;
  innerType?: z.ZodType;
  in?: z.ZodType;
  shape?: Shape;
  entries?: Record<string, string>;
  element?: z.ZodType;
  options?: readonly z.ZodType[];
}

const definitionOf = (schema: z.ZodType) => schema._zod.def as unknown as Definition;

/** The schema inside optional, default and transform wrappers. */
function core(schema: z.ZodType): z.ZodType {
  const { type, innerType, in: input } = definitionOf(schema);
  if (innerType && ["optional", "default", "nullable", "prefault"].includes(type)) return core(innerType);
  return type === "pipe" && input ? core(input) : schema;
}

/** Every field of a schema with its path; groups are opened, lists of groups are left to forms of their own. */
export function fieldsOfSchema(schema: z.ZodType, path = ""): Map<string, z.ZodType> {
  const found = new Map<string, z.ZodType>();
  for (const [name, field] of Object.entries(definitionOf(core(schema)).shape ?? {})) {
    const at = path === "" ? name : `${path}.${name}`;
    const bare = core(field);
    if (definitionOf(bare).shape) for (const [key, value] of fieldsOfSchema(bare, at)) found.set(key, value);
    else found.set(at, field);
  }
  return found;
}

function isRequired(schema: z.ZodType): boolean {
  return !["optional", "default", "nullable"].includes(definitionOf(schema).type);
}

/** The field of a form that takes a value of this schema. */
function fieldOf(name: string, schema: z.ZodType, said: FieldOptions): FieldSpec {
  const { label, hint = "", suggest, mono, wide, none = "not set", words, choices } = said;
  const base = { name, label, hint, suggest, mono, wide };
  const { type, entries } = definitionOf(core(schema));
  const nothing = isRequired(schema) ? [] : [{ value: "", label: none }];
  if (choices) return { ...base, options: [...nothing, ...choices] };
  if (type === "enum" && entries) {
    const values = Object.values(entries).map((value) => ({ value, label: words?.[value] ?? value }));
    return { ...base, options: [...nothing, ...values] };
  }
  if (type === "boolean") {
    const values = ["true", "false"].map((value) => ({
      value,
      label: words?.[value] ?? { true: "yes", false: "no" }[value] ?? value,
    }));
    return { ...base, options: [...nothing, ...values] };
  }
  return { ...base, many: type === "array" || takes(schema, "array") };
}

/** Whether a schema takes values of a type besides others. */
function takes(schema: z.ZodType, wanted: string): boolean {
  const { type, options } = definitionOf(core(schema));
  return type === "union" && (options ?? []).some((option) => definitionOf(option).type === wanted);
}

/** Whether a field takes a time: the keys of a plan's times end in their unit. */
const isDuration = (name: string) => name.endsWith("Ms");

/** The input as the schema expects it; undefined if empty. Unreadable input is returned unchanged for the schema to
 * reject. */
function typedValue(name: string, schema: z.ZodType, values: Values): unknown {
  const text = typed(values, name);
  const { type } = definitionOf(core(schema));
  if (takes(schema, "array")) {
    const list = listed(values, name);
    return list.length > 1 ? list : list[0];
  }
  if (type === "array") {
    const list = listed(values, name);
    return list.length > 0 || isRequired(schema) || definitionOf(schema).type === "default"
      ? list
      : undefined;
  }
  if (text === undefined) return undefined;
  if (type === "boolean") return text === "true";
  if (isDuration(name)) return parseDuration(text) ?? undefined;
  if (type === "number") return numbered(values, name);
  return takes(schema, "number") && /^\d+$/.test(text) ? Number(text) : text;
}

function at(item: unknown, path: string): unknown {
  return path
    .split(".")
    .reduce<unknown>((value, key) => (value as Record<string, unknown> | undefined)?.[key], item);
}

function put(item: Record<string, unknown>, path: string, value: unknown) {
  const keys = path.split(".");
  const last = keys.pop() as string;
  let holder = item;
  for (const key of keys) {
    holder[key] = { ...(holder[key] as Record<string, unknown> | undefined) };
    holder = holder[key] as Record<string, unknown>;
  }
  if (value === undefined) delete holder[last];
  else holder[last] = value;
}

/** The field that an error's path speaks of: the last name in it that is one. */
function placeOf(path: string, wording: Wording): string {
  const names = path.replaceAll(/\[\d+\]/g, "").split(".");
  for (let end = names.length; end > 0; end--)
    for (let start = 0; start < end; start++) {
      const name = names.slice(start, end).join(".");
      if (name in wording) return name;
    }
  return "form";
}

interface SchemaForm<S extends z.ZodType> {
  plan: Plan;
  schema: S;
  wording: Wording | ((values: Values) => Wording);
  /** The edited item; null for a new one. */
  item: z.output<S> | null;
  /** Initial values of a new item. */
  fresh?: Values;
  /** Fills empty fields before the input is read: for example an id derived from a name. */
  fill?: (item: Record<string, unknown>, values: Values) => Record<string, unknown>;
  title: string;
  submit: string;
  removal: Edit | null;
  /** The edit that sets the item to its new value. */
  edit: (item: z.output<S>) => Edit | null;
}

/** A form derived from the schema of its item. Saving without changes makes no edit. */
export function schemaForm<S extends z.ZodType>(form: SchemaForm<S>): FormSpec {
  const { plan, schema, item, title, submit, removal } = form;
  const fields = fieldsOfSchema(schema);
  const wordingOf = (values: Values) =>
    typeof form.wording === "function" ? form.wording(values) : form.wording;
  const initial: Record<string, string> = { ...form.fresh };
  if (item)
    for (const name of fields.keys()) {
      const value = at(item, name);
      initial[name] = isDuration(name) && typeof value === "number" ? durationText(value) : shown(value);
    }
  const drawn = (values: Values) =>
    Object.entries(wordingOf(values)).filter(
      ([name, said]) => fields.has(name) && (said.when?.(values) ?? true),
    );
  return {
    title,
    submit,
    removal,
    initial,
    fields: (values) =>
      drawn(values).map(([name, said]) => fieldOf(name, fields.get(name) as z.ZodType, said)),
    read: (values) => {
      const made = structuredClone((item ?? {}) as Record<string, unknown>);
      const inSight = new Set(drawn(values).map(([name]) => name));
      const errors = durationErrors(inSight, values);
      if (Object.keys(errors).length > 0) return { ok: false, errors };
      for (const [name, field] of fields) {
        if (item && inSight.has(name) && (values[name] ?? "") === (initial[name] ?? "")) continue;
        if (inSight.has(name)) put(made, name, typedValue(name, field, values));
        else if (name in wordingOf(values)) put(made, name, undefined);
      }
      const filled = form.fill ? form.fill(withoutHoles(made), values) : withoutHoles(made);
      return readForm(plan, schema, filled, item, wordingOf(values), form.edit);
    },
  };
}

/** An error for each field of time whose text is not a time. */
function durationErrors(names: Iterable<string>, values: Values): Record<string, string> {
  const wrong = [...names].filter((name) => {
    const text = typed(values, name);
    return isDuration(name) && text !== undefined && parseDuration(text) === null;
  });
  return Object.fromEntries(wrong.map((name) => [name, `enter ${DURATION_FORMS}`]));
}

/** Groups of which nothing is left are left out. */
function withoutHoles(item: Record<string, unknown>): Record<string, unknown> {
  return withoutEmpty(
    Object.fromEntries(
      Object.entries(item).map(([key, value]) => {
        const group = typeof value === "object" && value !== null && !Array.isArray(value);
        return [key, group && Object.keys(value).length === 0 ? undefined : value];
      }),
    ),
  );
}

function readForm<S extends z.ZodType>(
  plan: Plan,
  schema: S,
  made: unknown,
  item: z.output<S> | null,
  wording: Wording,
  editOf: (item: z.output<S>) => Edit | null,
): FormReading {
  const parsed = schema.safeParse(made, { reportInput: true });
  const place = (errors: readonly { path: string; message: string }[]): FormReading => {
    const placed: Record<string, string> = {};
    for (const { path, message } of errors) placed[placeOf(path, wording)] ??= message;
    return { ok: false, errors: placed };
  };
  if (!parsed.success) return place(errorsOfIssues(parsed.error.issues));
  if (item && sameValue(item, parsed.data)) return { ok: true, edit: null };
  const edit = editOf(parsed.data);
  if (!edit) return { ok: true, edit: null };
  const outcome = applyEdit(plan, edit);
  return outcome.ok ? { ok: true, edit } : place(outcome.errors);
}
