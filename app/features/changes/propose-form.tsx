import { Form, useNavigation } from "react-router";
import type { Preference } from "../../../core/steps/index.ts";
import { Button } from "../../ui/button.tsx";

export interface WordsShown {
  title: string;
  reason: string;
  reference: string;
  windowFrom: Date | string | null;
  windowTo: Date | string | null;
  notes: string;
}

/** The texts of a new or existing change. Times are UTC, as everywhere. */
export function WordsForm({
  words,
  doing,
  action,
  to,
  hidden = {},
  onCancel,
}: {
  words: Partial<WordsShown>;
  doing: string;
  action: string;
  /** The form's target; this page by default. */
  to?: string;
  hidden?: Record<string, string>;
  onCancel: () => void;
}) {
  const busy = useNavigation().state === "submitting";
  const clock = (at: Date | string | null | undefined) =>
    at ? new Date(at).toISOString().slice(0, 16).replace("T", " ") : "";
  return (
    <Form
      method="post"
      action={to}
      aria-label={action}
      className="mt-2 grid max-w-2xl grid-cols-[110px_1fr] items-baseline gap-x-3 gap-y-2 border border-iron bg-panel p-3"
    >
      <input type="hidden" name="do" value={doing} />
      {Object.entries(hidden).map(([name, value]) => (
        <input key={name} type="hidden" name={name} value={value} />
      ))}
      <Field name="title" label="Title" value={words.title} required />
      <Field name="reason" label="Reason" value={words.reason} lines={2} />
      <Field name="reference" label="Reference" value={words.reference} hint="ticket or order number" />
      <Field
        name="windowFrom"
        label="Window from"
        value={clock(words.windowFrom)}
        hint="2027-03-05 22:00, UTC"
      />
      <Field name="windowTo" label="to" value={clock(words.windowTo)} hint="2027-03-06 02:00, UTC" />
      <Field name="notes" label="Notes" value={words.notes} lines={3} />
      <span />
      <span className="flex gap-2">
        <Button type="submit" look="strong" disabled={busy}>
          {busy ? "Verifying the rollout order …" : action}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </span>
    </Form>
  );
}

/** Makes a change of the draft. */
export function ProposeForm({
  title,
  prefer,
  onCancel,
}: {
  title: string;
  prefer: Preference;
  onCancel: () => void;
}) {
  return (
    <WordsForm
      words={{ title }}
      doing="propose"
      action="Propose change"
      hidden={{ prefer }}
      onCancel={onCancel}
    />
  );
}

function Field({
  name,
  label,
  value = "",
  hint,
  lines,
  required,
}: {
  name: string;
  label: string;
  value?: string;
  hint?: string;
  lines?: number;
  required?: boolean;
}) {
  const shared = {
    id: `change-${name}`,
    name,
    defaultValue: value,
    placeholder: hint,
    className: "field w-full",
  };
  return (
    <>
      <label htmlFor={shared.id} className="text-[13px] text-ink-2">
        {label}
      </label>
      {lines ? <textarea rows={lines} {...shared} /> : <input required={required} {...shared} />}
    </>
  );
}
