import { useEffect, useState } from "react";
import { useFetcher } from "react-router";
import { useRights } from "../../plan/rights.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import type { ChangeShown } from "./shown.ts";

/** A click that never shows, because another person undid it at once, is dropped after this time. */
const PATIENCE_MS = 4000;

interface TickProps {
  item: string;
  change: ChangeShown["change"];
  label: React.ReactNode;
  back?: boolean;
}

/** An item that is ticked for all who follow, with who did it and when. */
export function Tick({ item, change, label, back }: TickProps) {
  const { edits } = useRights();
  const fetcher = useFetcher<{ error: string | null }>();
  const kept = change.ticks.find((tick) => tick.item === item);
  // A click shows at once, until the server confirms it; ticks of others may arrive in between.
  const [wished, setWished] = useState<boolean | null>(null);
  const ticked = wished ?? kept !== undefined;
  const error = fetcher.state === "idle" ? fetcher.data?.error : null;
  const answered = wished === (kept !== undefined) || Boolean(error);
  useEffect(() => {
    if (fetcher.state !== "idle" || wished === null) return;
    if (answered) return setWished(null);
    const patience = setTimeout(() => setWished(null), PATIENCE_MS);
    return () => clearTimeout(patience);
  }, [fetcher.state, wished, answered]);
  const send = () => {
    setWished(!ticked);
    void fetcher.submit({ do: ticked ? "untick" : "tick", item, stay: "yes" }, { method: "post" });
  };
  return (
    <div>
      <label className="flex items-start gap-2">
        <input
          type="checkbox"
          className="mt-[3px] size-[18px] shrink-0 accent-iron"
          checked={ticked}
          onChange={send}
          disabled={change.state !== "approved" || !edits}
        />
        <span className={`min-w-0 flex-1 ${back && !ticked ? "text-ink-2" : ""}`}>{label}</span>
        {kept && ticked && (
          <span className="shrink-0 text-right text-[12px] text-ink-2 leading-[18px]">
            {kept.author}, <ClockTime at={kept.at} />
          </span>
        )}
      </label>
      {error && (
        <p role="alert" className="text-[13px] text-stop">
          Not saved: {error}.
        </p>
      )}
    </div>
  );
}
