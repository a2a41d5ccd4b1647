import { useEffect, useMemo, useRef, useState } from "react";
import type { Plan } from "../../../core/plan/index.ts";
import { readInterfaceList } from "../../../exchange/interface-list.ts";
import type { useEditing } from "../../data/editing.ts";
import { Refusals } from "../../ui/refusals.tsx";

interface PasteListProps {
  plan: Plan;
  /** Whose list it is, where lines do not name a device; null on the map. */
  device: string | null;
  editing: ReturnType<typeof useEditing>;
  onDone: () => void;
}

/** Takes a pasted list of interfaces and addresses, read line by line before anything is saved. */
export function PasteList({ plan, device, editing, onDone }: PasteListProps) {
  const [text, setText] = useState("");
  const sent = useRef(false);
  const list = useMemo(() => readInterfaceList(text, plan, device), [text, plan, device]);
  const wrong = list.lines.filter((line) => !line.ok).length;
  const { busy, saved, errors } = editing;
  useEffect(() => {
    if (!sent.current || busy) return;
    sent.current = false;
    if (saved !== null) onDone();
  }, [busy, saved, onDone]);
  return (
    <form
      aria-label="A list of interfaces"
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (!list.edit) return;
        sent.current = true;
        editing.save(list.edit);
      }}
    >
      <label htmlFor="paste-list" className="block font-semibold">
        Paste a list of interfaces
      </label>
      <p className="text-[13px] text-ink-2">
        One interface a line, parted by commas or tabs: {device ? "" : "device, "}interface, address with its
        length or with a mask. A kind (loopback) {device ? "" : "or a role (firewall) "}may stand behind.
      </p>
      <textarea
        id="paste-list"
        rows={8}
        value={text}
        onChange={(event) => setText(event.target.value)}
        spellCheck={false}
        className="field addr w-full"
        placeholder={
          device
            ? "lan, 172.20.16.1/24\nwan1, 198.51.100.2/30"
            : "west-router, lan, 172.20.16.1/24\nwest-router, wan1, 198.51.100.2/30"
        }
      />
      {list.lines.length > 0 && (
        <ol
          aria-label="What was read"
          className="max-h-60 overflow-y-auto border-rule border-y py-1 text-[13px]"
        >
          {list.lines.map((line) => (
            <li key={line.line} className="flex gap-2">
              <span className="w-6 shrink-0 text-right text-ink-3">{line.line}</span>
              <span className={line.ok ? "" : "text-stop"}>
                {line.ok ? "" : "Not understood: "}
                {line.says}
              </span>
            </li>
          ))}
        </ol>
      )}
      <p role="status">
        {text.trim() === ""
          ? ""
          : wrong > 0
            ? `${wrong} of ${list.lines.length} lines are not understood; correct them, and nothing is lost.`
            : list.edit
              ? `${list.interfaces} interfaces${list.devices ? ` and ${list.devices} new devices` : ""} are read.`
              : "All of it is in the plan already."}
      </p>
      <Refusals errors={errors} />
      <button type="submit" className="button button-strong" disabled={busy || !list.edit}>
        Take the list
      </button>{" "}
      <button type="button" className="button" onClick={onDone}>
        Leave it
      </button>
    </form>
  );
}
