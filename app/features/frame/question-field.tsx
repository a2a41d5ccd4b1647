import { useEffect, useRef, useState } from "react";
import { Form, useLocation, useNavigate } from "react-router";
import { useQuestion } from "../../engine/asking.ts";
import { HiddenParams } from "../../plan/hidden-params.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { hrefOf } from "../../search/links.ts";
import type { Suggestion } from "../../search/suggestion.ts";
import { Combobox } from "../../ui/combobox.tsx";

const NONE: readonly Suggestion[] = [];

/** Where anything can be asked: an address, "A to B", a device, a prefix, "fail X". Works without scripts too. */
export function QuestionField() {
  const { planId, page, params, here } = usePlan();
  const [text, setText] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const { answer, of, error } = useQuestion(page, params, here, text);
  const found = (text.trim() !== "" && answer) || NONE;

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

  const go = (suggestion: Suggestion) => {
    setText("");
    field.current?.blur();
    navigate(hrefOf(planId, suggestion, params, pathname));
  };

  return (
    <Form
      method="get"
      action={`/plans/${planId}/ask`}
      className="relative min-w-[200px] max-w-[370px] flex-[1_1_240px]"
      role="search"
      onSubmit={() => setTimeout(() => setText(""))}
    >
      <HiddenParams but={["q"]} />
      {here && <input type="hidden" name="here" value={here} />}
      <Combobox
        value={text}
        onText={setText}
        choices={found}
        keyOf={(suggestion) => `${suggestion.page} ${suggestion.label} ${suggestion.detail}`}
        draw={(suggestion, highlighted) => (
          <>
            <span className="font-medium">{suggestion.label}</span>
            <span className={`text-[13px] ${highlighted ? "" : "text-ink-2"}`}>{suggestion.detail}</span>
          </>
        )}
        onTake={go}
        firstChosen
        stale={of !== text}
        label="Search or ask: address, A to B, fail a link"
        listLabel="Suggestions"
        nothing={error || "No match in this plan. Enter a device, an address, or “fail” and a link."}
        onEscape={() => field.current?.blur()}
        input={{
          ref: field,
          name: "q",
          placeholder: "Search or ask: address, A to B, fail a link …",
          className: "field w-full py-1.5 pr-16",
        }}
        listClass="top-full right-0 mt-1 w-[420px]"
      />
      <span
        aria-hidden="true"
        className="-translate-y-1/2 pointer-events-none absolute top-1/2 right-2 rounded-[3px] border border-rule px-1 font-addr text-[12px] text-ink-2"
      >
        Ctrl K
      </span>
    </Form>
  );
}
