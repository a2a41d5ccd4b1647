import { useState } from "react";
import type { Edit, Plan, Watch } from "../../../core/plan/index.ts";

interface KnobsProps {
  plan: Plan;
  watches: string[];
  fail: string[];
  turned: Edit | null;
  busy: boolean;
  onTurn: (edit: Edit | null) => void;
  onKeep: () => void;
}

const knobs = {
  probe: [
    ["intervalMs", "interval, ms"],
    ["timeoutMs", "timeout, ms"],
    ["failAfter", "down after"],
    ["recoverAfter", "up after"],
  ],
  bfd: [
    ["minTxMs", "send, ms"],
    ["minRxMs", "expect, ms"],
    ["multiplier", "multiplier"],
  ],
} as const;

/** The timers of the watches that take part: turned here, the gap moves at once; kept, they become an edit. */
export function Knobs({ plan, watches, turned, busy, onTurn, onKeep }: KnobsProps) {
  const [values, setValues] = useState<Record<string, string>>({});
  const own = watches.flatMap((name) => {
    const slash = name.indexOf("/");
    const device = name.slice(0, slash);
    const watch = plan.devices
      .find((entry) => entry.id === device)
      ?.watches.find((entry) => entry.id === name.slice(slash + 1));
    return watch && (watch.kind === "probe" || watch.kind === "bfd") ? [{ name, device, watch }] : [];
  });
  if (own.length === 0) return null;
  const turn = (next: Record<string, string>) => {
    setValues(next);
    const changes = own.flatMap(({ name, device, watch }) => {
      const after: Watch = { ...watch };
      for (const [key] of knobs[watch.kind as "probe" | "bfd"]) {
        const typed = next[`${name} ${key}`];
        if (typed !== undefined && /^\d+$/.test(typed)) Object.assign(after, { [key]: Number(typed) });
      }
      return JSON.stringify(after) === JSON.stringify(watch)
        ? []
        : [{ in: "device" as const, device, collection: "watches" as const, before: watch, after }];
    });
    const names = changes.map((change) => `${change.device}/${change.before.id}`).join(", ");
    onTurn(changes.length ? { label: `Turn the timers of ${names}`, changes } : null);
  };
  return (
    <section aria-label="Timers" className="mt-3 border-rule border-y py-2">
      {own.map(({ name, watch }) => (
        <p key={name} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span className="addr w-48 shrink-0">{name}</span>
          {knobs[watch.kind as "probe" | "bfd"].map(([key, text]) => (
            <label key={key} className="flex items-center gap-1 text-[13px] text-ink-2">
              {text}
              <input
                value={values[`${name} ${key}`] ?? String((watch as Record<string, unknown>)[key])}
                onChange={(event) => turn({ ...values, [`${name} ${key}`]: event.target.value })}
                inputMode="numeric"
                aria-label={`${name} ${text}`}
                className="field w-20 text-ink"
              />
            </label>
          ))}
        </p>
      ))}
      {turned && (
        <p className="mt-1 flex gap-2">
          <button type="button" className="button button-strong" disabled={busy} onClick={onKeep}>
            Keep these timers
          </button>
          <button
            type="button"
            className="button"
            onClick={() => {
              setValues({});
              onTurn(null);
            }}
          >
            Put them back
          </button>
        </p>
      )}
    </section>
  );
}
