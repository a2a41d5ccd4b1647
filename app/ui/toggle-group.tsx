import { ToggleGroup } from "radix-ui";

const item =
  "border border-rule bg-panel px-2 py-0.5 text-[13px] first:rounded-l-[3px] last:rounded-r-[3px] not-first:border-l-0 data-[state=on]:bg-chosen data-[state=on]:text-chosen-ink";

interface OptionsProps {
  label: string;
  options: readonly { value: string; text: React.ReactNode }[];
}

/** One of a few, all in sight. */
export function ChooseOne({
  label,
  options,
  value,
  onChange,
}: OptionsProps & { value: string; onChange: (value: string) => void }) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next !== "" && onChange(next)}
      className="inline-flex flex-wrap"
    >
      {options.map((option) => (
        <ToggleGroup.Item key={option.value} value={option.value} className={item}>
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

/** Any of a few, all in sight. */
export function ChooseSome({
  label,
  options,
  values,
  onChange,
}: OptionsProps & { values: readonly string[]; onChange: (values: string[]) => void }) {
  return (
    <ToggleGroup.Root
      type="multiple"
      aria-label={label}
      value={[...values]}
      onValueChange={onChange}
      className="inline-flex"
    >
      {options.map((option) => (
        <ToggleGroup.Item key={option.value} value={option.value} className={item}>
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
