import { useEffect, useRef, useState } from "react";
import { errorsOfIssues, type StaticRoute, staticRouteSchema } from "../../../core/plan/index.ts";
import type { DeviceAnswer } from "../../answers/device.ts";
import type { useEditing } from "../../data/editing.ts";
import { additionEdit, changeEdit } from "./route-edits.ts";

/** A route that is being changed; none while a new one is written. */
export interface Draft {
  kind: "change";
  route: StaticRoute;
}

interface RouteFormProps {
  answer: DeviceAnswer;
  draft: Draft | null;
  editing: ReturnType<typeof useEditing>;
  onClose: () => void;
}

const fieldNames = ["to", "via", "out", "distance", "metric", "watch", "discard", "note"] as const;
type FieldName = (typeof fieldNames)[number];
type Values = Record<FieldName, string>;

function valuesOf(route: StaticRoute | undefined): Values {
  const text = (value: unknown) => (value === undefined ? "" : String(value));
  return {
    to: text(route?.to),
    via: text(route?.via),
    out: text(route?.out),
    distance: text(route?.distance),
    metric: text(route?.metric),
    watch: text(route?.watch),
    discard: text(route?.discard),
    note: text(route?.note),
  };
}

type Reading =
  | { ok: true; route: StaticRoute }
  | { ok: false; errors: Partial<Record<FieldName | "form", string>> };

/** Reads what was typed; what the fields do not show of the old route is kept. */
function read(values: Values, old: StaticRoute | undefined): Reading {
  const typed = Object.fromEntries(
    fieldNames.flatMap((name) => {
      const text = values[name].trim();
      if (text === "") return [];
      return [[name, name === "distance" || name === "metric" ? Number(text) : text]];
    }),
  );
  const kept = Object.fromEntries(
    Object.entries(old ?? {}).filter(([key]) => !fieldNames.includes(key as FieldName)),
  );
  const parsed = staticRouteSchema.safeParse({ ...kept, ...typed }, { reportInput: true });
  if (parsed.success) return { ok: true, route: parsed.data };
  const errors: Partial<Record<FieldName | "form", string>> = {};
  for (const error of errorsOfIssues(parsed.error.issues)) {
    const field = fieldNames.find((name) => name === error.path) ?? "form";
    errors[field] ??= error.message;
  }
  if (values.to.trim() === "") errors.to = "where to? a prefix, such as 172.20.32.0/20";
  return { ok: false, errors };
}

/** Writes a route of the device, or changes one. Wrong input is told beside its field and keeps what was typed. */
export function RouteForm({ answer, draft, editing, onClose }: RouteFormProps) {
  const old = draft?.route;
  const [values, setValues] = useState(() => valuesOf(old));
  const [errors, setErrors] = useState<Partial<Record<FieldName | "form", string>>>({});
  const first = useRef<HTMLInputElement>(null);
  const sent = useRef(false);
  const { device } = answer;

  useEffect(() => {
    if (draft) first.current?.focus();
  }, [draft]);

  // Once the server has taken the route, the fields are for the next one; refused, they keep what was typed.
  const { busy, saved, errors: refusals } = editing;
  useEffect(() => {
    if (!sent.current || busy) return;
    sent.current = false;
    if (saved === null) return;
    setValues(valuesOf(undefined));
    onClose();
  }, [busy, saved, onClose]);

  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    const reading = read(values, old);
    if (!reading.ok) return setErrors(reading.errors);
    setErrors({});
    sent.current = true;
    editing.save(old ? changeEdit(device, old, reading.route) : additionEdit(device, reading.route));
  };

  const field = (
    name: FieldName,
    label: string,
    className: string,
    extra: React.InputHTMLAttributes<HTMLInputElement> = {},
  ) => (
    <div className="flex flex-col">
      <label htmlFor={`route-${name}`} className="text-[13px] text-ink-2">
        {label}
      </label>
      <input
        id={`route-${name}`}
        ref={name === "to" ? first : undefined}
        value={values[name]}
        onChange={(event) => setValues((now) => ({ ...now, [name]: event.target.value }))}
        aria-invalid={errors[name] ? true : undefined}
        aria-describedby={errors[name] ? `route-${name}-error` : undefined}
        autoComplete="off"
        spellCheck={false}
        className={`field ${className}`}
        {...extra}
      />
      {errors[name] && (
        <p id={`route-${name}-error`} role="alert" className="max-w-56 text-[13px] text-stop leading-[17px]">
          {errors[name]}
        </p>
      )}
    </div>
  );

  const problems = [errors.form, ...refusals.map((error) => error.message)].filter(
    (text) => text !== undefined,
  );
  return (
    <form
      onSubmit={submit}
      aria-label={old ? "Change a route" : "Add a route"}
      className={`shrink-0 border-ink border-t-2 bg-panel px-4 py-2 ${old ? "bg-chosen-soft" : ""}`}
    >
      <div className="flex flex-wrap items-start gap-2">
        {field("to", "Destination", "addr w-36", { placeholder: "172.20.32.0/20" })}
        {field("via", "Next hop", "addr w-32", { placeholder: "address" })}
        {field("out", "Out", "addr w-20", { placeholder: "port", list: "route-interfaces" })}
        {field("distance", "Distance", "w-16", {
          placeholder: String(device.staticDistance ?? "none"),
          inputMode: "numeric",
        })}
        {field("metric", "Metric", "w-14", { placeholder: "0", inputMode: "numeric" })}
        {answer.watches.length > 0 && field("watch", "While watch is up", "w-28", { list: "route-watches" })}
        <div className="flex flex-col">
          <label htmlFor="route-discard" className="text-[13px] text-ink-2">
            Discard
          </label>
          <select
            id="route-discard"
            value={values.discard}
            onChange={(event) => setValues((now) => ({ ...now, discard: event.target.value }))}
            className="field h-[28px]"
          >
            <option value="">no</option>
            <option value="drop">drop</option>
            <option value="reject">reject</option>
          </select>
        </div>
        {field("note", "Note", "w-24")}
        <div className="mt-5 flex gap-2">
          <button type="submit" className="button button-strong" disabled={busy}>
            {old ? "Keep the change" : "Add the route"}
          </button>
          {old && (
            <button type="button" className="button" onClick={onClose}>
              Leave it
            </button>
          )}
        </div>
      </div>
      {problems.length > 0 && (
        <p role="alert" className="mt-1 text-stop">
          {problems.join("; ")}
        </p>
      )}
      <datalist id="route-interfaces">
        {answer.attached.map((port) => (
          <option key={port.name} value={port.name} />
        ))}
      </datalist>
      <datalist id="route-watches">
        {answer.watches.map((watch) => (
          <option key={watch} value={watch} />
        ))}
      </datalist>
    </form>
  );
}
