import { useState } from "react";
import { Form, useNavigation, useSubmit } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { Button } from "../../ui/button.tsx";
import { Confirm } from "../../ui/dialog.tsx";
import type { Progress } from "./progress.ts";
import { WordsForm } from "./propose-form.tsx";
import type { ChangeShown } from "./shown.ts";

/** What can be done with a change as it stands: approve it, say it otherwise, take in a newer draft, take it off. */
export function ChangeActions({ change, standing }: Pick<ChangeShown, "change"> & { standing: Progress }) {
  const { page } = usePlan();
  const submit = useSubmit();
  const busy = useNavigation().state === "submitting";
  const [writing, setWriting] = useState<"" | "words" | "anew">("");
  const { edits, approves } = useRights();
  const open = change.state === "proposed" || (change.state === "approved" && standing.done === 0);
  if (!open) return null;
  const newer = page.newest !== change.draft;
  const words = {
    title: change.title,
    reason: change.reason,
    reference: change.reference,
    windowFrom: change.windowFrom,
    windowTo: change.windowTo,
    notes: change.notes,
  };
  if (!edits) return null;
  return (
    <div className="mt-2 max-w-4xl">
      {newer && (
        <p className="text-[13px] text-warn">
          The plan has since moved on to revision {page.newest}. The change still covers the revisions above.
        </p>
      )}
      <div className="mt-1 flex flex-wrap items-center gap-2">
        {change.state === "proposed" && approves && (
          <Form method="post">
            <input type="hidden" name="do" value="approve" />
            <Button type="submit" look="strong" disabled={busy}>
              Approve change
            </Button>
          </Form>
        )}
        {change.state === "proposed" && !approves && (
          <span className="text-ink-2">Awaiting approval by an approver.</span>
        )}
        <Button onClick={() => setWriting("words")}>Edit title and window</Button>
        {newer && <Button onClick={() => setWriting("anew")}>Update to revision {page.newest}</Button>}
        <Confirm
          title="Withdraw change?"
          action="Withdraw change"
          trigger={<Button>Withdraw</Button>}
          onConfirm={() => submit({ do: "withdraw" }, { method: "post" })}
        >
          The change stays in the history and is not carried out. Its draft is kept.
        </Confirm>
      </div>
      {writing === "words" && (
        <>
          {change.state === "approved" && (
            <p className="mt-1 text-[13px] text-warn">Editing it removes the approval.</p>
          )}
          <WordsForm words={words} doing="rewrite" action="Save" onCancel={() => setWriting("")} />
        </>
      )}
      {writing === "anew" && (
        <AnewForm words={words} number={change.number} onCancel={() => setWriting("")} />
      )}
    </div>
  );
}

/** Another change takes this one's place: its draft is the newest revision. */
function AnewForm({
  words,
  number,
  onCancel,
}: {
  words: React.ComponentProps<typeof WordsForm>["words"];
  number: number;
  onCancel: () => void;
}) {
  const { planId } = usePlan();
  return (
    <WordsForm
      words={words}
      doing="propose"
      action="Propose again"
      to={`/plans/${planId}/changes`}
      hidden={{ replaces: String(number) }}
      onCancel={onCancel}
    />
  );
}
