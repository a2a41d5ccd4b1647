import type { Line } from "./fold.ts";

/** The head of a site: folds its flows or failures, or unfolds them. */
export function FoldButton({
  line,
  what,
  onFold,
}: {
  line: Extract<Line, { kind: "site" }>;
  what: string;
  onFold: (site: string) => void;
}) {
  const name = siteName(line.site);
  return (
    <button
      type="button"
      aria-expanded={!line.folded}
      aria-label={`${line.folded ? "Unfold" : "Fold"} ${name}, ${line.items.length} ${what}`}
      onClick={() => onFold(line.site)}
      className="line-clamp-3 px-1 text-left font-semibold text-[13px] leading-4 hover:underline"
    >
      <span aria-hidden="true">{line.folded ? "+" : "−"}</span> {name}{" "}
      <span className="font-normal text-ink-2">{line.items.length}</span>
    </button>
  );
}

/** What a site is called on the board. */
export function siteName(site: string): string {
  return site === "" ? "between sites" : site;
}
