import type { Opened } from "../drawing/folds.ts";

/** The parameter that names a pair which the map draws as two plates; given once for each. */
const OPEN = "open";
const ALL = "*";

/** The pairs that an address has opened; all of them while the network is edited. */
export function openedIn(params: URLSearchParams): Opened {
  const opened = params.getAll(OPEN);
  return params.has("edit") || opened.includes(ALL) ? "all" : [...new Set(opened)].sort();
}

/** The same as a part of an address, behind others. */
export function openedText(opened: Opened): string {
  const names = opened === "all" ? [ALL] : opened;
  return names.map((name) => `&${OPEN}=${encodeURIComponent(name)}`).join("");
}

/** Where a pair is opened, or folded again. */
export function openHref(params: URLSearchParams, pair: string, open: boolean): string {
  const next = new URLSearchParams(params);
  const others = next.getAll(OPEN).filter((name) => name !== pair);
  next.delete(OPEN);
  for (const name of open ? [...others, pair] : others) next.append(OPEN, name);
  return `?${next}`;
}
