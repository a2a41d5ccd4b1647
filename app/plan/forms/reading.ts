import type { z } from "zod";
import {
  applyEdit,
  type Edit,
  errorsOfIssues,
  freeName as firstFree,
  type Plan,
} from "../../../core/plan/index.ts";
import type { FormReading, Values } from "./item-form.tsx";

/** Trimmed text; undefined if empty. */
export function typed(values: Values, name: string): string | undefined {
  return values[name]?.trim() || undefined;
}

/** A list that was typed with commas or spaces between. */
export function listed(values: Values, name: string): string[] {
  return (values[name] ?? "").split(/[\s,;]+/).filter((part) => part !== "");
}

/** A typed number; other text is returned unchanged for the schema to reject. */
export function numbered(values: Values, name: string): number | undefined {
  const text = typed(values, name);
  return text === undefined ? undefined : Number(text.replace(",", "."));
}

/** The first of "name", "name-2", "name-3" … that is not taken. */
export function freeName(wanted: string, taken: readonly string[], joint?: string): string {
  return firstFree(wanted, (name) => taken.includes(name), joint);
}

export function withoutEmpty<T extends object>(item: T): T {
  return Object.fromEntries(Object.entries(item).filter(([, value]) => value !== undefined)) as T;
}

export type ItemReading<T> = { ok: true; item: T } | { ok: false; errors: Record<string, string> };

/** Which field an error's path speaks of: by a list, or as a function finds it. */
type Places = Readonly<Record<string, string>> | ((path: string) => string);

/** Reads an item by its schema; each error goes to the field that its path starts with, or as `places` say. */
export function readItem<S extends z.ZodType>(
  schema: S,
  item: unknown,
  places: Places = {},
): ItemReading<z.output<S>> {
  const parsed = schema.safeParse(item, { reportInput: true });
  if (parsed.success) return { ok: true, item: parsed.data };
  const errors: Record<string, string> = {};
  for (const { path, message } of errorsOfIssues(parsed.error.issues)) {
    errors[placeOf(path, places)] ??= message;
  }
  return { ok: false, errors };
}

function placeOf(path: string, places: Places): string {
  if (typeof places === "function") return places(path);
  const head = path.split(/[.[]/)[0];
  return places[path] ?? places[head] ?? (head || "form");
}

/** An edit that the plan takes, or why it does not, beside the field that `field` names or finds by the error's path. */
export function tryEdit(
  plan: Plan,
  edit: Edit,
  field: string | ((path: string) => string) = "form",
): FormReading {
  const outcome = applyEdit(plan, edit);
  if (outcome.ok) return { ok: true, edit };
  const errors: Record<string, string> = {};
  for (const { path, message } of outcome.errors) {
    const place = typeof field === "string" ? field : field(path);
    errors[place] = errors[place] ? `${errors[place]}; ${message}` : message;
  }
  return { ok: false, errors };
}

/** Text for a field: the item's value, or "". */
export function shown(value: unknown): string {
  if (value === undefined || value === null) return "";
  return Array.isArray(value) ? value.join(", ") : String(value);
}
