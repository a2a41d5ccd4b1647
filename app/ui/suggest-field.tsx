import { useState } from "react";
import { Combobox } from "./combobox.tsx";
import type { Choice } from "./select.tsx";

interface SuggestFieldProps {
  id?: string;
  label: string;
  /** The chosen value; several are separated by commas. */
  value: string;
  onChange: (value: string) => void;
  choices: readonly Choice[];
  /** Whether several can be chosen; each then appears as a chip. */
  many?: boolean;
  placeholder?: string;
  className?: string;
  "aria-invalid"?: boolean;
  "aria-describedby"?: string;
}

/** Choices that are listed at most. */
const MAX_LISTED = 12;

/** A text field with suggestions, for values such as "interface:edge/wan1" that have a label. It shows labels and holds
 * values; other text is kept as typed, so that the form can report its error. */
export function SuggestField({ value, onChange, choices, many = false, ...rest }: SuggestFieldProps) {
  const { id, label, placeholder, className = "", ...aria } = rest;
  const labelOf = (one: string) => choices.find((choice) => choice.value === one)?.label ?? one;
  const [chips, setChips] = useState<string[]>(() => (many ? split(value) : []));
  const [text, setText] = useState(() => (many ? "" : labelOf(value)));
  // Fully typed text needs no list over the content below; an opened field shows all options.
  const [typing, setTyping] = useState(false);
  const change = (nextChips: string[], nextText: string) => {
    setChips(nextChips);
    setText(nextText);
    onChange(many ? [...nextChips, ...valuesIn(nextText, choices)].join(", ") : choiceOf(nextText, choices));
  };
  const wanted = text.trim().toLowerCase();
  const open = choices.filter((choice) => !chips.includes(choice.value));
  const exact = open.some((choice) => choice.label.toLowerCase() === wanted);
  const listed = open
    .filter(
      (choice) =>
        (exact && !typing) ||
        choice.label.toLowerCase().includes(wanted) ||
        choice.value.toLowerCase().includes(wanted),
    )
    .filter((_, __, all) => !(exact && typing && all.length === 1))
    .slice(0, MAX_LISTED);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: it only learns when the field is entered.
    <div
      onFocus={() => setTyping(false)}
      className={`field relative flex h-auto min-h-[28px] flex-wrap items-center gap-1 ${className}`}
    >
      {chips.map((chip) => (
        <span key={chip} title={chip} className="inline-flex items-center gap-1 bg-sunk px-1.5 text-[13px]">
          {labelOf(chip)}
          <button
            type="button"
            aria-label={`Remove ${labelOf(chip)}`}
            onClick={() =>
              change(
                chips.filter((one) => one !== chip),
                text,
              )
            }
          >
            ×
          </button>
        </span>
      ))}
      <Combobox
        value={text}
        onText={(next) => {
          setTyping(true);
          if (many && /[^,;\s]\s*[,;]\s*$/.test(next)) change([...chips, ...valuesIn(next, choices)], "");
          else change(chips, next);
        }}
        choices={listed}
        keyOf={(choice) => choice.value}
        draw={(choice) => (
          <>
            <span>{choice.label}</span>
            {choice.value !== choice.label && <span className="text-[12px] text-ink-3">{choice.value}</span>}
          </>
        )}
        onTake={(choice) => (many ? change([...chips, choice.value], "") : change([], choice.label))}
        label={label}
        listLabel={`Suggestions for ${label}`}
        input={{
          ...aria,
          id,
          placeholder: chips.length === 0 ? placeholder : undefined,
          className: "min-w-24 flex-1 bg-transparent outline-none",
        }}
        listClass="top-full left-0 mt-1 max-h-64 w-72 overflow-y-auto"
      />
    </div>
  );
}

const split = (text: string) => text.split(/[\s,;]+/).filter((part) => part !== "");

/** The value of typed text. */
function choiceOf(text: string, choices: readonly Choice[]): string {
  const wanted = text.trim().toLowerCase();
  const found =
    choices.find((choice) => choice.value.toLowerCase() === wanted) ??
    choices.find((choice) => choice.label.toLowerCase() === wanted);
  return found?.value ?? text.trim();
}

/** The values in a typed list: labels may have spaces, values have none. */
function valuesIn(text: string, choices: readonly Choice[]): string[] {
  if (text.trim() === "") return [];
  const whole = choiceOf(text, choices);
  if (choices.some((choice) => choice.value === whole)) return [whole];
  return text
    .split(/[,;]+/)
    .map((part) => choiceOf(part, choices))
    .filter((part) => part !== "");
}
