import { useEffect } from "react";
import { useEditing } from "../../plan/editing.ts";
import type { Known } from "../../plan/known.ts";

/** Undo and redo, and at which revision the plan stands. */
export function EditBar({ page }: { page: Known }) {
  const { undo, redo, busy, errors, passedOver } = useEditing(page);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      if (event.target instanceof HTMLElement && event.target.closest("input, textarea, [contenteditable]"))
        return;
      event.preventDefault();
      if (event.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);
  return (
    <div className="flex items-center gap-1">
      <button
        type="button"
        className="button"
        onClick={undo}
        disabled={busy || !page.undo}
        title={page.undo ? `Undo: ${page.undo}` : "Nothing to undo"}
      >
        Undo
      </button>
      <button
        type="button"
        className="button"
        onClick={redo}
        disabled={busy || !page.redo}
        title={page.redo ? `Redo: ${page.redo}` : "Nothing to redo"}
      >
        Redo
      </button>
      <span className="pl-2 text-ink-2 text-[13px] whitespace-nowrap">Revision {page.revision}</span>
      {errors.length > 0 && (
        <p
          role="alert"
          className="fixed right-4 bottom-4 z-30 max-w-md border-2 border-stop bg-panel p-3 shadow-md"
        >
          {errors.map((error) => error.message).join("; ")}
        </p>
      )}
      {passedOver.length > 0 && (
        <p
          role="status"
          className="fixed right-4 bottom-4 z-30 max-w-md border border-iron bg-panel p-3 shadow-md"
        >
          Passed over: {passedOver.join("; ")}
        </p>
      )}
    </div>
  );
}
