import { useEffect, useId, useRef, useState } from "react";
import type { Edit, PlanError } from "../../../core/plan/index.ts";
import { Button } from "../../ui/button.tsx";
import { Coded } from "../../ui/coded.tsx";
import { Confirm } from "../../ui/dialog.tsx";
import { type Choice, Pick } from "../../ui/select.tsx";
import { SuggestField } from "../../ui/suggest-field.tsx";
import { ChangeList } from "../impact/change-list.tsx";
import { FormWarnings } from "./form-warnings.tsx";

export type Values = Readonly<Record<string, string>>;

/** A field of a form: its label and its accepted values. */
export interface FieldSpec {
  name: string;
  label: string;
  /** The accepted values in a few words. */
  hint: string;
  options?: readonly Choice[];
  /** Suggestions while typing. */
  suggest?: readonly (string | Choice)[];
  /** Whether it takes a list. */
  many?: boolean;
  mono?: boolean;
  wide?: boolean;
}

/** The edit that a form makes; null without changes. */
export type FormReading = { ok: true; edit: Edit | null } | { ok: false; errors: Record<string, string> };

/** A form as data: fields, initial values, and their conversion to an edit. */
export interface FormSpec {
  title: string;
  fields: (values: Values) => readonly FieldSpec[];
  initial: Values;
  read: (values: Values) => FormReading;
  /** The edit that removes the item; null for a new one. */
  removal: Edit | null;
  submit: string;
}

interface Editing {
  save: (edit: Edit) => void;
  busy: boolean;
  saved: number | null;
  errors: readonly PlanError[];
}

interface ItemFormProps {
  spec: FormSpec;
  editing: Editing;
  /** The edit has been saved: the form has done its work. */
  onDone: (what: "saved" | "removed") => void;
  onCancel?: () => void;
}

/** Edits one item of a plan. Errors appear beside their field, keep the input, and prevent saving. */
export function ItemForm({ spec, editing, onDone, onCancel }: ItemFormProps) {
  const [values, setValues] = useState<Values>(spec.initial);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const form = useRef<HTMLFormElement>(null);
  const sent = useRef<"saved" | "removed" | null>(null);
  const base = useId();
  const { busy, saved, errors: refusals } = editing;

  useEffect(() => {
    if (!sent.current || busy) return;
    const what = sent.current;
    sent.current = null;
    if (saved !== null) onDone(what);
  }, [busy, saved, onDone]);

  useEffect(() => {
    form.current?.querySelector<HTMLElement>("input, [role=combobox]")?.focus();
  }, []);

  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    const reading = spec.read(values);
    if (!reading.ok) {
      setErrors(reading.errors);
      requestAnimationFrame(() => form.current?.querySelector<HTMLElement>("[aria-invalid]")?.focus());
      return;
    }
    setErrors({});
    if (!reading.edit) return onDone("saved");
    sent.current = "saved";
    editing.save(reading.edit);
  };

  const draft = values === spec.initial ? null : spec.read(values);
  const fields = spec.fields(values);
  const known = new Set(fields.map((field) => field.name));
  const general = [
    ...Object.entries(errors).flatMap(([name, message]) => (known.has(name) ? [] : [message])),
    ...refusals.map((error) => error.message),
  ];
  return (
    <form ref={form} onSubmit={submit} aria-label={spec.title} className="space-y-2">
      <h3 className="font-semibold">{spec.title}</h3>
      <div className="grid grid-cols-2 gap-x-2 gap-y-1.5">
        {fields.map((field) => (
          <ItemField
            key={field.name}
            id={`${base}-${field.name}`}
            field={field}
            value={values[field.name] ?? ""}
            error={errors[field.name]}
            onChange={(value) => setValues((now) => ({ ...now, [field.name]: value }))}
          />
        ))}
      </div>
      <FormWarnings edit={draft?.ok ? draft.edit : null} />
      {general.length > 0 && (
        <p role="alert" className="text-stop">
          <Coded text={general.join("; ")} />
        </p>
      )}
      <p className="flex flex-wrap gap-2">
        <button type="submit" className="button button-strong" disabled={busy}>
          {spec.submit}
        </button>
        {onCancel && (
          <button type="button" className="button" onClick={onCancel}>
            Cancel
          </button>
        )}
        {spec.removal && (
          <Removal
            removal={spec.removal}
            busy={busy}
            onRemove={(removal) => {
              sent.current = "removed";
              editing.save(removal);
            }}
          />
        )}
      </p>
    </form>
  );
}

interface ItemFieldProps {
  id: string;
  field: FieldSpec;
  value: string;
  error: string | undefined;
  onChange: (value: string) => void;
}

/** One field with its label and its error. */
function ItemField({ id, field, value, error, onChange }: ItemFieldProps) {
  const told = {
    id,
    value,
    "aria-invalid": error ? true : undefined,
    "aria-describedby": error ? `${id}-error` : undefined,
  } as const;
  return (
    <div className={`flex min-w-0 flex-col ${field.wide ? "col-span-2" : ""}`}>
      <label htmlFor={id} className="text-[13px] text-ink-2">
        {field.label}
      </label>
      {field.options ? (
        <Pick {...told} onChange={onChange} choices={field.options} className="w-full" />
      ) : field.suggest ? (
        <SuggestField
          {...told}
          label={field.label}
          onChange={onChange}
          choices={field.suggest.map((one) => (typeof one === "string" ? { value: one, label: one } : one))}
          many={field.many}
          placeholder={field.hint}
          className="w-full"
        />
      ) : (
        <input
          {...told}
          className={`field w-full ${field.mono ? "addr" : ""}`}
          onChange={(event) => onChange(event.target.value)}
          placeholder={field.hint}
          autoComplete="off"
          spellCheck={false}
        />
      )}
      {error && (
        <p id={`${id}-error`} role="alert" className="text-[13px] text-stop leading-[17px]">
          <Coded text={error} />
        </p>
      )}
    </div>
  );
}

interface RemovalProps {
  removal: Edit;
  busy: boolean;
  onRemove: (removal: Edit) => void;
}

/** Removes an item at once, or asks first if dependent items are removed too. */
function Removal({ removal, busy, onRemove }: RemovalProps) {
  const along = removal.changes.length - 1;
  if (along === 0) {
    return (
      <Button look="danger" className="ml-auto" disabled={busy} onClick={() => onRemove(removal)}>
        Remove
      </Button>
    );
  }
  return (
    <Confirm
      title={`${removal.label}?`}
      action="Remove"
      onConfirm={() => onRemove(removal)}
      trigger={
        <Button look="danger" className="ml-auto" disabled={busy}>
          Remove
        </Button>
      }
    >
      <p>
        This also removes or changes {along === 1 ? "one other item" : `${along} other items`}. Undo restores
        everything.
      </p>
      <div className="mt-2 max-h-60 overflow-y-auto">
        <ChangeList changes={removal.changes.slice(0, 40)} />
        {removal.changes.length > 40 && <p className="text-ink-2">and {removal.changes.length - 40} more</p>}
      </div>
    </Confirm>
  );
}
