import { Select } from "radix-ui";
import { useState } from "react";

export interface Choice {
  value: string;
  label: string;
}

interface PickProps {
  id?: string;
  value: string;
  onChange: (value: string) => void;
  choices: readonly Choice[];
  "aria-label"?: string;
  "aria-invalid"?: boolean;
  "aria-describedby"?: string;
  className?: string;
}

/** Radix keeps "" for nothing chosen, so an empty value goes by another name inside. */
const NONE = " none";

/** One of a list that opens; letters jump to what begins with them. */
export function Pick({ id, value, onChange, choices, className = "", ...aria }: PickProps) {
  return (
    <Select.Root value={value || NONE} onValueChange={(next) => onChange(next === NONE ? "" : next)}>
      <Select.Trigger
        id={id}
        {...aria}
        className={`field inline-flex h-[28px] items-center justify-between gap-2 text-left ${className}`}
      >
        <Select.Value />
        <Select.Icon aria-hidden="true" className="text-ink-2">
          <svg width="10" height="6" viewBox="0 0 10 6" aria-hidden="true">
            <path d="M1 1l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="1.5" />
          </svg>
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={2}
          collisionPadding={8}
          className="z-50 max-h-72 min-w-[var(--radix-select-trigger-width)] overflow-hidden border border-iron bg-panel shadow-md"
        >
          <Select.Viewport className="py-1">
            {choices.map((choice) => (
              <Select.Item
                key={choice.value}
                value={choice.value || NONE}
                className="cursor-pointer select-none px-3 py-0.5 outline-none data-[highlighted]:bg-chosen data-[highlighted]:text-chosen-ink data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{choice.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

interface FormPickProps extends Omit<PickProps, "value" | "onChange"> {
  /** The form field that carries the chosen value. */
  name: string;
  defaultValue: string;
  onPicked?: (value: string) => void;
}

/** A list to choose from as a field of a form. */
export function FormPick({ name, defaultValue, onPicked, ...pick }: FormPickProps) {
  const [value, setValue] = useState(defaultValue);
  return (
    <>
      <input type="hidden" name={name} value={value} />
      <Pick
        {...pick}
        value={value}
        onChange={(next) => {
          setValue(next);
          onPicked?.(next);
        }}
      />
    </>
  );
}
