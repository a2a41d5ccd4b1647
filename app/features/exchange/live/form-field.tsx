import { useId } from "react";

interface FormFieldProps extends React.ComponentProps<"input"> {
  label: string;
  error?: string;
}

/** A field with its name above, and what is wrong with it below. */
export function FormField({ label, error, className = "", ...rest }: FormFieldProps) {
  const id = useId();
  return (
    <div className="flex flex-col">
      <label htmlFor={id} className="text-[13px] text-ink-2">
        {label}
      </label>
      <input
        id={id}
        aria-invalid={error !== undefined}
        aria-describedby={error ? `${id}-error` : undefined}
        className={`field ${className}`}
        autoComplete="off"
        spellCheck={false}
        {...rest}
      />
      <FieldError id={`${id}-error`} error={error} />
    </div>
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

interface FormChoiceProps extends React.ComponentProps<"select"> {
  label: string;
  error?: string;
}

/** A list to choose from; the system's own, so that it works without scripts. */
export function FormChoice({ label, error, className = "", children, ...rest }: FormChoiceProps) {
  const id = useId();
  return (
    <div className="flex flex-col">
      <label htmlFor={id} className="text-[13px] text-ink-2">
        {label}
      </label>
      <select
        id={id}
        aria-invalid={error !== undefined}
        aria-describedby={error ? `${id}-error` : undefined}
        className={`field ${className}`}
        {...rest}
      >
        {children}
      </select>
      <FieldError id={`${id}-error`} error={error} />
    </div>
  );
}
