import { useFetcher } from "react-router";
import type { Layout } from "../../../../exchange/layout.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import { useRights } from "../../../plan/rights.tsx";
import type { LayoutNotice } from "../../../routes/layouts.ts";
import { Button } from "../../../ui/button.tsx";

/** Saves the corrected layout under a name in this plan; it is recognized next time. */
export function KeepLayout({
  shapes,
  words,
}: {
  shapes: Layout["shapes"];
  words: Readonly<Record<string, string>>;
}) {
  const { planId } = usePlan();
  const keeper = useFetcher<LayoutNotice>({ key: "layouts" });
  if (!useRights().edits) return null;
  return (
    <keeper.Form method="post" action={`/plans/${planId}/layouts`} className="flex flex-wrap items-end gap-2">
      <input type="hidden" name="do" value="keep" />
      <input type="hidden" name="shapes" value={JSON.stringify(shapes)} />
      <input type="hidden" name="words" value={JSON.stringify(words)} />
      <label className="flex flex-col text-[13px] text-ink-2">
        Save this layout as
        <input name="name" required maxLength={200} className="field w-56" />
      </label>
      <Button type="submit" disabled={keeper.state !== "idle"}>
        Save layout
      </Button>
      {keeper.data && (
        <span
          role={keeper.data.error ? "alert" : "status"}
          className={keeper.data.error ? "text-stop" : "font-medium"}
        >
          {keeper.data.error || keeper.data.said}
        </span>
      )}
    </keeper.Form>
  );
}
