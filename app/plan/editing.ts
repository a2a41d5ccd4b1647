import { useCallback, useState } from "react";
import { useFetcher } from "react-router";
import { type Edit, type PlanError, revisionText } from "../../core/plan/index.ts";
import type { action, EditRequest } from "../routes/edit.ts";
import { newestOf, type PlanHead } from "./head.ts";

/**
 * Saving edits on a plan's page: each names the revision that the page shows. Where the address pins an older one,
 * nothing is saved: what an edit does would not be seen there.
 */
export function useEditing(page: Pick<PlanHead, "planId" | "revision" | "newest">, key?: string) {
  const fetcher = useFetcher<typeof action>({ key });
  const { planId, revision, newest } = page;
  const [refused, setRefused] = useState(false);
  const { submit } = fetcher;
  const send = useCallback(
    (body: EditRequest) =>
      submit(body as never, { method: "post", action: `/plans/${planId}/edit`, encType: "application/json" }),
    [submit, planId],
  );
  const pinned = revision !== newest;
  const save = useCallback(
    (edit: Edit) => (pinned ? setRefused(true) : send({ do: "edit", base: revision, edit })),
    [send, revision, pinned],
  );
  const undo = useCallback(
    () => send({ do: "undo", base: newestOf({ planId, newest }) }),
    [send, planId, newest],
  );
  const redo = useCallback(
    () => send({ do: "redo", base: newestOf({ planId, newest }) }),
    [send, planId, newest],
  );
  const outcome = fetcher.data?.outcome;
  const pinnedText = `this page shows ${revisionText(revision)}; only the newest revision, ${newest}, can be edited. Open it first`;
  const errors: PlanError[] =
    refused && pinned ? [{ path: "", message: pinnedText }] : outcome && !outcome.ok ? outcome.errors : [];
  return {
    save,
    undo,
    redo,
    /** Until it is known what became of the edit, and then, where it was saved, until the page shows it. */
    busy: fetcher.state === "submitting" || (fetcher.state === "loading" && outcome?.ok !== false),
    errors,
    /** Edits skipped by an undo or redo because they no longer apply. */
    passedOver: (outcome?.ok && outcome.passedOver) || [],
    saved: outcome?.ok ? outcome.revision : null,
  };
}
