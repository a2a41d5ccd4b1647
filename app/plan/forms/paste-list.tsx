import { useEffect, useRef, useState } from "react";
import type { Revisions } from "../../engine/ask.client.ts";
import { useAsking } from "../../engine/asking.ts";
import type { LinkedList } from "../../queries/asks.ts";
import type { useEditing } from "../editing.ts";
import { usePlan } from "../open-plan.tsx";
import { Refusals } from "../refusals.tsx";
import { elementLabel } from "../sentence-parts.ts";

/** Lines that are shown, and text that is read, at most. */
const MAX_LINES = 200;
const MAX_TEXT = 3_000_000;
const NOTHING_READ: LinkedList = {
  lines: [],
  edit: null,
  devices: 0,
  interfaces: 0,
  links: [],
  linked: null,
};

interface PasteListProps {
  page: Revisions;
  /** Whose list it is, where lines do not name a device; null on the map. */
  device: string | null;
  editing: ReturnType<typeof useEditing>;
  onDone: () => void;
}

function wrongFirst(lines: LinkedList["lines"]): LinkedList["lines"] {
  return [...lines.filter((line) => !line.ok), ...lines.filter((line) => line.ok)];
}

/** Links that are named at most. */
const MAX_LINKS = 6;

/** Takes a pasted list of interfaces and addresses, read line by line before anything is saved. */
export function PasteList({ page, device, editing, onDone }: PasteListProps) {
  const { labels } = usePlan();
  const [text, setText] = useState("");
  const [joining, setJoining] = useState(true);
  const sent = useRef(false);
  const asked = useAsking(
    page,
    "interfaceList",
    text.trim() === "" ? null : { text: text.slice(0, MAX_TEXT), device },
    { kind: "interface list", afterMs: text.length > 20_000 ? 250 : 0 },
  );
  const list = asked.answer ?? NOTHING_READ;
  const wrong = list.lines.filter((line) => !line.ok).length;
  // Long lists show errors first, because they need work.
  const long = list.lines.length > MAX_LINES;
  const shown = (long ? wrongFirst(list.lines) : list.lines).slice(0, MAX_LINES);
  const reading = asked.pending || (text.trim() !== "" && asked.answer === null);
  const { busy, saved, errors } = editing;
  useEffect(() => {
    if (!sent.current || busy) return;
    sent.current = false;
    if (saved !== null) onDone();
  }, [busy, saved, onDone]);
  return (
    <form
      aria-label="List of interfaces"
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        const edit = (joining && list.linked) || list.edit;
        if (!edit) return;
        sent.current = true;
        editing.save(edit);
      }}
    >
      <label htmlFor="paste-list" className="block font-semibold">
        Paste a list of interfaces
      </label>
      <p className="text-[13px] text-ink-2">
        One interface per line, separated by commas or tabs: {device ? "" : "device, "}interface, address with
        prefix length or mask. Optional: a kind (loopback){device ? "" : " or a role (firewall)"}.
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
          aria-label="Lines read"
          className="max-h-60 overflow-y-auto border-rule border-y py-1 text-[13px]"
        >
          {shown.map((line) => (
            <li key={line.line} className="flex gap-2">
              <span className="w-6 shrink-0 text-right text-ink-3">{line.line}</span>
              <span className={line.ok ? "" : "text-stop"}>
                {line.ok ? "" : "Not understood: "}
                {line.says}
              </span>
            </li>
          ))}
          {list.lines.length > shown.length && (
            <li className="pl-8 text-ink-2">and {list.lines.length - shown.length} more lines</li>
          )}
        </ol>
      )}
      <p role="status">
        {text.length > MAX_TEXT ? `The list is cut off after ${MAX_TEXT / 1_000_000} MB. ` : ""}
        {asked.error !== "" && `The list could not be read: ${asked.error}. `}
        {text.trim() === ""
          ? ""
          : reading
            ? "Reading …"
            : wrong > 0
              ? `${wrong} of ${list.lines.length} lines are not understood. Correct them to include them.`
              : list.edit
                ? `${list.interfaces} interfaces${list.devices ? ` and ${list.devices} new devices` : ""} to add.`
                : "The plan already contains all of it."}
      </p>
      {list.links.length > 0 && (
        <label className="flex items-start gap-2">
          <input
            type="checkbox"
            className="mt-1"
            checked={joining}
            onChange={(event) => setJoining(event.target.checked)}
          />
          <span>
            Join interfaces that share a subnet: {list.links.length}{" "}
            {list.links.length === 1 ? "link" : "links"}
            <span className="block text-[13px] text-ink-2">
              {list.links
                .slice(0, MAX_LINKS)
                .map((ends) => ends.map((end) => elementLabel(`interface:${end}`, labels)).join(" – "))
                .join("; ")}
              {list.links.length > MAX_LINKS && ` and ${list.links.length - MAX_LINKS} more`}
            </span>
          </span>
        </label>
      )}
      <Refusals errors={errors} />
      <button type="submit" className="button button-strong" disabled={busy || reading || !list.edit}>
        Add to network
      </button>{" "}
      <button type="button" className="button" onClick={onDone}>
        Cancel
      </button>
    </form>
  );
}
