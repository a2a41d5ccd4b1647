import { useEffect, useId, useRef, useState } from "react";
import type { Completion } from "../../../core/writing/index.ts";
import { askPlan, type Revisions } from "../../engine/ask.client.ts";

interface LineInputProps {
  page: Revisions;
  device: string | null;
  value: string;
  onChange: (text: string) => void;
  invalid: boolean;
  describedBy: string;
}

/** One line that writes a route, completed as one types: Tab takes the first, arrows choose, Enter takes the route. */
export function LineInput({ page, device, value, onChange, invalid, describedBy }: LineInputProps) {
  const [found, setFound] = useState<Completion[]>([]);
  const [at, setAt] = useState(-1);
  const [open, setOpen] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const caretAfter = useRef<number | null>(null);
  const listId = useId();

  const look = (text: string, caret: number) => {
    askPlan(page, "completions", { text, caret, device }).then(
      (list) => {
        setFound(list);
        setAt(-1);
      },
      () => {},
    );
  };

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
    onChange(head + tail);
    look(head + tail, head.length);
  };

  const onKeyDown = (event: React.KeyboardEvent) => {
    if (!open || found.length === 0) return;
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      const step = event.key === "ArrowDown" ? 1 : -1;
      setAt((now) => (now < 0 && step < 0 ? found.length - 1 : (now + step + found.length) % found.length));
    } else if (event.key === "Tab" && !event.shiftKey && value.trim() !== "") {
      event.preventDefault();
      take(found[Math.max(at, 0)]);
    } else if (event.key === "Enter" && at >= 0) {
      event.preventDefault();
      take(found[at]);
    } else if (event.key === "Escape") {
      event.stopPropagation();
      setOpen(false);
    }
  };

  const shown = open && found.length > 0;
  return (
    <div className="relative min-w-0 flex-1">
      <input
        ref={field}
        value={value}
        onChange={(event) => {
          onChange(event.target.value);
          setOpen(true);
          look(event.target.value, event.target.selectionStart ?? event.target.value.length);
        }}
        onKeyDown={onKeyDown}
        onFocus={(event) => {
          setOpen(true);
          look(value, event.target.selectionStart ?? value.length);
        }}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        role="combobox"
        aria-expanded={shown}
        aria-controls={listId}
        aria-activedescendant={shown && at >= 0 ? `${listId}-${at}` : undefined}
        aria-autocomplete="list"
        aria-invalid={invalid || undefined}
        aria-describedby={describedBy}
        aria-label="Route as one line"
        placeholder={
          device
            ? "172.20.32.0/20 via 192.0.2.5 distance 20 watch far-a"
            : "tern-edge, gull-edge: 172.20.32.0/20 via 192.0.2.5"
        }
        autoComplete="off"
        spellCheck={false}
        className="field addr w-full py-1.5 text-[15px]"
      />
      <div
        id={listId}
        role="listbox"
        aria-label="Completions"
        hidden={!shown}
        className="absolute bottom-full left-0 z-20 mb-1 w-[420px] max-w-[90vw] border border-iron bg-panel py-1 shadow-md"
      >
        {found.map((completion, i) => (
          <div
            tabIndex={-1}
            key={`${completion.insert} ${completion.detail}`}
            id={`${listId}-${i}`}
            role="option"
            aria-selected={i === at}
            onMouseDown={(event) => {
              event.preventDefault();
              take(completion);
            }}
            className={`flex cursor-pointer items-baseline justify-between gap-3 px-3 py-0.5 ${i === at ? "bg-chosen text-chosen-ink" : ""}`}
          >
            <span className="addr font-medium">{completion.insert}</span>
            <span className={`truncate text-[13px] ${i === at ? "" : "text-ink-2"}`}>
              {completion.detail}
            </span>
          </div>
        ))}
      </div>
    </div>
  );
}
