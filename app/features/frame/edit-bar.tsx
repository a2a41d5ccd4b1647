import { useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import { stageOf } from "../../../core/plan/index.ts";
import { useEditing } from "../../plan/editing.ts";
import { useNewest } from "../../plan/head.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { withParam } from "../../search/links.ts";
import { Button } from "../../ui/button.tsx";
import { Notice } from "../../ui/toast.tsx";
import { Tip } from "../../ui/tooltip.tsx";

/** Undo and redo, and at which revision the plan stands. */
export function EditBar() {
  const { page, params } = usePlan();
  const { pathname } = useLocation();
  const pinned = page.revision !== page.newest;
  // Another revision is known already, and this page is about to show it.
  const behind = useNewest(page) !== page.newest;
  const stage = stageOf(page.revision);
  const { undo, redo, busy, errors, passedOver } = useEditing(page);
  const readsOnly = page.role === "reads";
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      if (event.target instanceof HTMLElement && event.target.closest("input, textarea, [contenteditable]"))
        return;
      event.preventDefault();
      if (pinned || behind) return;
      if (event.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo, pinned, behind]);
  return (
    <div className="flex items-center gap-1">
      <Tip text={page.undo ? `Undo: ${page.undo} (Ctrl Z)` : "Nothing to undo"}>
        <Button onClick={undo} disabled={busy || behind || pinned || !page.undo}>
          Undo
        </Button>
      </Tip>
      <Tip text={page.redo ? `Redo: ${page.redo} (Ctrl Shift Z)` : "Nothing to redo"}>
        <Button onClick={redo} disabled={busy || behind || pinned || !page.redo}>
          Redo
        </Button>
      </Tip>
      <span className={`whitespace-nowrap pl-2 text-[13px] text-ink-2 ${stage ? "hidden lg:inline" : ""}`}>
        {stage ? "Between two revisions" : behind && !pinned ? "Updating …" : `Revision ${page.revision}`}
        {readsOnly && ", read-only"}
        {pinned && !stage && (
          <>
            {" "}
            of {page.newest}.{" "}
            <Link className="name-link" to={`${pathname}${withParam(params, "revision", null)}`}>
              Show newest
            </Link>
          </>
        )}
      </span>
      <DismissibleNotice text={errors.map((error) => error.message).join("; ")} grave />
      <DismissibleNotice text={passedOver.length > 0 ? `Skipped: ${passedOver.join("; ")}` : ""} />
    </div>
  );
}

/** A notice for each new text; closed, it stays away until there is another. */
function DismissibleNotice({ text, grave }: { text: string; grave?: boolean }) {
  const [closed, setClosed] = useState("");
  useEffect(() => {
    if (text === "") setClosed("");
  }, [text]);
  if (text === "") return null;
  return <Notice text={text} grave={grave} open={closed !== text} onOpenChange={() => setClosed(text)} />;
}
