import type { RouteState } from "../../core/routes/index.ts";

const states: Record<RouteState, { words: string; looks: string }> = {
  "in-use": { words: "active", looks: "border-iron bg-iron text-ground" },
  standby: { words: "standby", looks: "border-iron" },
  unusable: { words: "unusable", looks: "border-stop text-stop" },
  disabled: { words: "disabled", looks: "border-dashed border-ink-3 text-ink-2" },
};

/** A route's state: solid if active, outlined if standby, always with text. */
export function StatePill({ state }: { state: RouteState }) {
  return (
    <span
      className={`inline-block whitespace-nowrap rounded-[3px] border px-1.5 font-semibold text-[12px] leading-[17px] ${states[state].looks}`}
    >
      {states[state].words}
    </span>
  );
}
