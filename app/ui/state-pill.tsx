import type { RouteState } from "../../core/routing/index.ts";

const states: Record<RouteState, { words: string; looks: string }> = {
  "in-use": { words: "In use", looks: "border-iron bg-iron text-ground" },
  standby: { words: "standing by", looks: "border-iron" },
  unusable: { words: "unusable", looks: "border-stop text-stop" },
  disabled: { words: "disabled", looks: "border-dashed border-ink-3 text-ink-2" },
};

/** A route's state: solid in use, outlined standing by, told in words. */
export function StatePill({ state }: { state: RouteState }) {
  return (
    <span
      className={`inline-block whitespace-nowrap rounded-[3px] border px-2 font-semibold text-[13px] leading-[20px] ${states[state].looks}`}
    >
      {states[state].words}
    </span>
  );
}
