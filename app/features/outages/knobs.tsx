import { useState } from "react";
import type { Edit } from "../../../core/plan/index.ts";
import { parseDuration } from "../../plan/forms/durations.ts";
import { useRights } from "../../plan/rights.tsx";
import { changesOf, type Turnable } from "./turnables.ts";

interface KnobsProps {
  of: readonly Turnable[];
  turned: Edit | null;
  busy: boolean;
  onTurn: (edit: Edit | null) => void;
  onKeep: () => void;
}

/** Timers of the elements involved: changes here update the gap at once and can be saved as an edit. */
export function Knobs({ of, turned, busy, onTurn, onKeep }: KnobsProps) {
  const [values, setValues] = useState<Record<string, string>>({});
  const { edits } = useRights();
  if (of.length === 0) return null;
  const turn = (next: Record<string, string>) => {
    setValues(next);
    const { names, changes } = changesOf(of, (name, key) => {
      const typed = next[`${name} ${key}`];
      if (typed === undefined) return null;
      if (key.endsWith("Ms")) return parseDuration(typed);
      return /^\d+$/.test(typed) ? Number(typed) : null;
    });
    onTurn(changes.length ? { label: `Change the timers of ${names.join(", ")}`, changes } : null);
  };
  return (
    <section aria-label="Timers" className="mt-3 border-rule border-y py-2">
      {of.map(({ name, knobs, value }) => (
        <p key={name} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span className="addr w-48 shrink-0">{name}</span>
          {knobs.map(([key, text]) => (
            <label key={key} className="flex items-center gap-1 text-[13px] text-ink-2">
              {text}
              <input
                value={values[`${name} ${key}`] ?? value(key)}
                onChange={(event) => turn({ ...values, [`${name} ${key}`]: event.target.value })}
                aria-label={`${name} ${text}`}
                className="field w-20 text-ink"
              />
            </label>
          ))}
        </p>
      ))}
      {turned && (
        <p className="mt-1 flex gap-2">
          {edits && (
            <button type="button" className="button button-strong" disabled={busy} onClick={onKeep}>
              Save timers
            </button>
          )}
          <button
            type="button"
            className="button"
            onClick={() => {
              setValues({});
              onTurn(null);
            }}
          >
            Reset
          </button>
        </p>
      )}
    </section>
  );
}
