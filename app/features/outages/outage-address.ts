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
