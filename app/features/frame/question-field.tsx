import { useEffect, useId, useRef, useState } from "react";
import { Form, useLocation, useNavigate, useSearchParams } from "react-router";
import { askWorker } from "../../engine/ask.client.ts";
import { knownOf } from "../../plan/known.ts";
import type { Suggestion } from "../../queries/question.ts";
import { hrefOf } from "../../search/links.ts";
import { viewOf } from "../../search/view.ts";

/** Where anything can be asked: an address, "A to B", a device, a prefix, "fail X". Works without scripts too. */
export function QuestionField({ planId, here }: { planId: string; here?: string }) {
  const [text, setText] = useState("");
  const [found, setFound] = useState<Suggestion[]>([]);
  const [at, setAt] = useState(0);
  const [open, setOpen] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const [params] = useSearchParams();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const listId = useId();

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof HTMLElement &&
        event.target.closest("input, textarea, select, [contenteditable]");
      const wanted =
        (event.key.toLowerCase() === "k" && (event.ctrlKey || event.metaKey)) ||
        (event.key === "/" && !typing);
      if (!wanted) return;
      event.preventDefault();
      field.current?.focus();
      field.current?.select();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);

  useEffect(() => {
    const known = knownOf(planId);
    if (text.trim() === "" || !known) {
      setFound([]);
      return;
    }
    let current = true;
    const view = { ...viewOf(params, here), text };
    askWorker("question", known, view).then(
      (list) => {
        if (!current) return;
        setFound(list);
        setAt(0);
        setOpen(true);
      },
      () => {},
    );
    return () => {
      current = false;
    };
  }, [text, planId, here, params]);

  const go = (suggestion: Suggestion) => {
    setOpen(false);
    setText("");
    field.current?.blur();
    navigate(hrefOf(planId, suggestion, params, pathname));
  };

  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      const step = event.key === "ArrowDown" ? 1 : -1;
      setAt((now) => (found.length ? (now + step + found.length) % found.length : 0));
    } else if (event.key === "Enter" && found[at]) {
      event.preventDefault();
      go(found[at]);
    } else if (event.key === "Escape") {
      setOpen(false);
      field.current?.blur();
    }
  };

  const shown = open && text.trim() !== "";
  return (
    <Form
      method="get"
      action={`/plans/${planId}/ask`}
      className="relative w-full max-w-[370px] min-w-[200px]"
      role="search"
    >
      {[...params].map(
        ([key, value]) =>
          key !== "q" && <input key={`${key} ${value}`} type="hidden" name={key} value={value} />,
      )}
      {here && <input type="hidden" name="here" value={here} />}
      <input
        ref={field}
        name="q"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={onKeyDown}
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        role="combobox"
        aria-expanded={shown}
        aria-controls={listId}
        aria-activedescendant={shown && found[at] ? `${listId}-${at}` : undefined}
        aria-label="Ask: an address, A to B, a device, fail a link"
        placeholder="Ask: an address, A to B, fail …"
        autoComplete="off"
        className="field w-full py-1.5 pr-16"
      />
      <span
        aria-hidden="true"
        className="-translate-y-1/2 absolute top-1/2 right-2 rounded-[3px] border border-rule px-1 font-addr text-[11px] text-ink-2"
      >
        Ctrl K
      </span>
      <div
        id={listId}
        role="listbox"
        aria-label="Suggestions"
        hidden={!shown}
        className="absolute top-full right-0 z-20 mt-1 w-[420px] max-w-[90vw] border border-iron bg-panel py-1 shadow-md"
      >
        {found.map((suggestion, i) => (
          <div
            tabIndex={-1}
            key={`${suggestion.page} ${suggestion.label} ${suggestion.detail}`}
            id={`${listId}-${i}`}
            role="option"
            aria-selected={i === at}
            onMouseDown={(event) => {
              event.preventDefault();
              go(suggestion);
            }}
            onMouseEnter={() => setAt(i)}
            className={`flex cursor-pointer items-baseline justify-between gap-3 px-3 py-1 ${i === at ? "bg-chosen text-chosen-ink" : ""}`}
          >
            <span className="font-medium">{suggestion.label}</span>
            <span className={`text-[13px] ${i === at ? "" : "text-ink-2"}`}>{suggestion.detail}</span>
          </div>
        ))}
        {found.length === 0 && (
          <div
            tabIndex={-1}
            role="option"
            aria-selected="false"
            aria-disabled="true"
            className="px-3 py-1 text-ink-2"
          >
            Nothing in this plan fits. Try a device, an address, or “fail” and a link.
          </div>
        )}
      </div>
    </Form>
  );
}
