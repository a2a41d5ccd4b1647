import { useId } from "react";
import { FormPick } from "../../../ui/select.tsx";

interface Named {
  label: string;
  error?: string;
}

/** Attributes that connect a field with its label and its error. */
interface Tied {
  id: string;
  "aria-invalid": boolean;
  "aria-describedby": string | undefined;
}

/** A label, the field, and its error below. */
function Labelled({ label, error, field }: Named & { field: (tied: Tied) => React.ReactNode }) {
  const id = useId();
  const errorId = `${id}-error`;
  return (
    <div className="flex flex-col">
      <label htmlFor={id} className="text-[13px] text-ink-2">
        {label}
      </label>
      {field({
        id,
        "aria-invalid": error !== undefined,
        "aria-describedby": error ? errorId : undefined,
      })}
      <FieldError id={errorId} error={error} />
    </div>
  );
}

/** A field to type in. */
export function FormField({ label, error, className = "", ...rest }: Named & React.ComponentProps<"input">) {
  return (
    <Labelled
      label={label}
      error={error}
      field={(tied) => (
        <input {...tied} className={`field ${className}`} autoComplete="off" spellCheck={false} {...rest} />
      )}
    />
  );
}

export function FieldError({ id, error }: { id: string; error: string | undefined }) {
  if (!error) return null;
  return (
    <p id={id} role="alert" className="max-w-72 text-[13px] text-stop">
      {error}
    </p>
  );
}

/** A list to choose from. */
export function FormChoice({
  label,
  error,
  ...pick
}: Named & Omit<React.ComponentProps<typeof FormPick>, "id" | "aria-label">) {
  return <Labelled label={label} error={error} field={(tied) => <FormPick {...pick} {...tied} />} />;
}
