import { useEffect, useRef, useState } from "react";
import type { Completion } from "../../../core/authoring/index.ts";
import type { Revisions } from "../../engine/ask.client.ts";
import { useAsking } from "../../engine/asking.ts";
import { Combobox } from "../../ui/combobox.tsx";

interface LineInputProps {
  page: Revisions;
  device: string | null;
  value: string;
  onChange: (text: string) => void;
  invalid: boolean;
  describedBy: string;
}

const NONE: readonly Completion[] = [];

/** One line that writes a route, completed as one types: Tab takes the first, arrows choose, Enter takes the route. */
export function LineInput({ page, device, value, onChange, invalid, describedBy }: LineInputProps) {
  const [caret, setCaret] = useState<number | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const caretAfter = useRef<number | null>(null);
  const asked = caret === null ? null : { text: value, caret: Math.min(caret, value.length), device };
  const { answer } = useAsking(page, "completions", asked);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the caret is put once the new value is shown.
  useEffect(() => {
    if (caretAfter.current === null) return;
    field.current?.setSelectionRange(caretAfter.current, caretAfter.current);
    caretAfter.current = null;
  }, [value]);

  const take = (completion: Completion) => {
    const tail = value.slice(completion.to).replace(/^\s*/, "");
    const head = `${value.slice(0, completion.from)}${completion.insert} `;
    caretAfter.current = head.length;
    setCaret(head.length);
    onChange(head + tail);
  };

  return (
    <div className="relative min-w-0 flex-1">
      <Combobox
        value={value}
        onText={(text, at) => {
          setCaret(at);
          onChange(text);
        }}
        choices={answer ?? NONE}
        keyOf={(completion) => `${completion.insert} ${completion.detail}`}
        draw={(completion, highlighted) => (
          <>
            <span className="addr font-medium">{completion.insert}</span>
            <span className={`truncate text-[13px] ${highlighted ? "" : "text-ink-2"}`}>
              {completion.detail}
            </span>
          </>
        )}
        onTake={take}
        tabTakes
        label="Route as one line"
        listLabel="Completions"
        input={{
          ref: field,
          "aria-invalid": invalid || undefined,
          "aria-describedby": describedBy,
          placeholder: device
            ? "172.20.32.0/20 via 192.0.2.5 distance 20 watch far-a"
            : "tern-edge, gull-edge: 172.20.32.0/20 via 192.0.2.5",
          className: "field addr w-full py-1.5 text-[15px]",
          onFocus: (event) => setCaret(event.target.selectionStart ?? value.length),
        }}
        listClass="bottom-full left-0 mb-1 w-[420px]"
      />
    </div>
  );
}
