import { pageHref } from "../../search/links.ts";

/** The address of an outage on the timeline: elements that fail at 0 s and are restored after `healMs`, or never. */
export function outageHref(
  planId: string,
  params: URLSearchParams,
  fail: readonly string[],
  healMs: number | null,
): string {
  const plain = new URLSearchParams(
    [...params].filter(([key]) => !["at", "fail", "heal", "outage"].includes(key)),
  );
  const set: Record<string, string> = healMs === null ? {} : { heal: String(healMs) };
  const href = pageHref(planId, "timeline", plain, set);
  const joint = href.includes("?") ? "&" : "?";
  return `${href}${joint}${fail.map((ref) => `fail=${encodeURIComponent(ref)}`).join("&")}`;
}

/** The typed elements by label or reference, separated by spaces or commas. */
export function chosenElements(
  typed: string,
  choices: readonly { readonly value: string; readonly label: string }[],
): { ok: true; refs: string[] } | { ok: false; error: string } {
  const refs: string[] = [];
  const find = (text: string) =>
    choices.find(({ value, label }) => value === text || label.toLowerCase() === text.toLowerCase())?.value;
  for (const part of typed.split(",").map((text) => text.trim())) {
    if (part === "") continue;
    // Labels contain spaces; text that matches no label may be several references.
    const words = find(part) ? [part] : part.split(/\s+/);
    const unknown = words.filter((word) => !find(word));
    if (unknown.length > 0) {
      const named = unknown.length === words.length ? part : unknown[0];
      return {
        ok: false,
        error: `"${named}" is not a link, device, interface, watch, site or shared risk of this plan. Choose one from the list.`,
      };
    }
    refs.push(...words.flatMap((word) => find(word) ?? []));
  }
  if (refs.length === 0) return { ok: false, error: "Choose at least one element that fails." };
  return { ok: true, refs: [...new Set(refs)] };
}
