import { useEffect, useRef, useState } from "react";
import type { Picture } from "../../../../exchange/rebuild/picture.ts";

interface PictureLinesProps {
  picture: Picture;
  /** The line that is reached, from 1; 0 before the first. */
  at: number;
  onAt: (line: number) => void;
  /** Whether what the line at hand adds is shown only when asked for. */
  hidden: boolean;
}

/** The table's lines with what each adds; arrow keys go on and back. */
export function PictureLines({ picture, at, onAt, hidden }: PictureLinesProps) {
  const list = useRef<HTMLDivElement>(null);
  const [shown, setShown] = useState(0);
  const last = picture.lines.findLast(({ text }) => text.trim() !== "")?.line ?? 0;
  useEffect(() => {
    list.current?.querySelector(`[data-line="${at}"]`)?.scrollIntoView({ block: "nearest" });
  }, [at]);
  const parts = new Map(
    [...picture.ports, ...picture.hops, ...picture.networks].map((part) => [
      part.id,
      sentence(part, picture),
    ]),
  );
  return (
    <div
      ref={list}
      tabIndex={0}
      role="listbox"
      aria-label="Lines of the table"
      aria-activedescendant={at > 0 ? `line-${at}` : undefined}
      onKeyDown={(event) => {
        const next = reachedBy(event.key, at, last);
        if (next === null && event.key !== "Enter") return;
        event.preventDefault();
        if (next === null) setShown(at);
        else onAt(next);
      }}
      className="max-h-[62vh] overflow-auto border border-rule bg-panel"
    >
      {picture.lines.slice(0, last).map(({ line, text, detail, fate, adds }) => {
        const told =
          adds.map((id) => parts.get(id)).join("; ") ||
          (fate === "not-understood" ? "not understood" : detail);
        const secret = hidden && line === at && shown !== at;
        return (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the list as a whole is worked by arrow keys.
          <div
            key={line}
            id={`line-${line}`}
            role="option"
            tabIndex={-1}
            aria-selected={line === at}
            data-line={line}
            onClick={() => onAt(line)}
            className={`cursor-pointer border-rule border-b px-2 py-1 ${line === at ? "bg-chosen-soft" : line > at ? "text-ink-3" : ""}`}
          >
            <code className="addr block overflow-hidden whitespace-pre text-[12px]">{text || " "}</code>
            {line <= at && (
              <p className="text-[13px] text-ink-2">
                {secret ? "What does this line add? Press Enter to show it." : told}
              </p>
            )}
          </div>
        );
      })}
    </div>
  );
}

/** The line that a key leads to; null where it leads nowhere. */
function reachedBy(key: string, at: number, last: number): number | null {
  if (key === "ArrowDown" || key === "ArrowRight") return Math.min(at + 1, last);
  if (key === "ArrowUp" || key === "ArrowLeft") return Math.max(at - 1, 0);
  return key === "Home" ? 0 : key === "End" ? last : null;
}

function sentence(
  part: Picture["ports"][number] | Picture["hops"][number] | Picture["networks"][number],
  picture: Picture,
): string {
  if ("name" in part) return `the interface ${part.name}`;
  if ("address" in part) {
    const port = picture.ports.find(({ id }) => id === part.port);
    return port
      ? `a neighbor, ${part.address}, on ${port.name}`
      : `a neighbor, ${part.address}, on an unknown interface`;
  }
  const on =
    picture.ports.find(({ id }) => id === part.on)?.name ??
    picture.hops.find(({ id }) => id === part.on)?.address;
  if (part.kind === "discarded") return `${part.prefix}, discarded`;
  if (part.kind === "attached") return `${part.prefix}, attached to ${on ?? "the device"}`;
  return `${part.prefix}, through ${on ?? "the device"}${part.far ? `, ${part.far}` : ""}`;
}
