import type { PageName } from "./pages.ts";
import type { Suggestion } from "./suggestion.ts";

/** Parameters that name a moment of an outage; links keep them like the conditions. */
const momentKeys = ["outage", "fail", "heal", "at"];

/** Keeps the revision, the conditions and, where `keep` names them, other parameters of the present address. */
function keptParams(current: URLSearchParams, keep: readonly string[]): URLSearchParams {
  const params = new URLSearchParams();
  const within = current.has("at") ? [...keep, ...momentKeys] : keep;
  for (const [key, value] of current)
    if (key === "down" || key === "revision" || key === "after" || within.includes(key))
      params.append(key, value);
  return params;
}

/** Parameters as written in an address, readable if possible. */
function queryText(params: URLSearchParams): string {
  return params.toString().replaceAll("%3A", ":").replaceAll("%2F", "/");
}

function withQuery(path: string, params: URLSearchParams): string {
  const text = queryText(params);
  return text ? `${path}?${text}` : path;
}

const questionKeys = ["flow", "from", "source", "to", "protocol", "port"];

/** A page under the same conditions; the map and Paths also keep the question. */
export function pageHref(
  planId: string,
  page: PageName,
  current: URLSearchParams,
  set: Record<string, string> = {},
): string {
  const asksAnew = Object.keys(set).some((key) => questionKeys.includes(key));
  const params = keptParams(current, asksAnew ? [] : questionKeys);
  for (const [key, value] of Object.entries(set)) params.set(key, value);
  return withQuery(`/plans/${planId}/${page}`, params);
}

export function deviceHref(
  planId: string,
  device: string,
  current: URLSearchParams,
  set: Record<string, string> = {},
): string {
  const params = keptParams(current, questionKeys);
  for (const [key, value] of Object.entries(set)) params.set(key, value);
  return withQuery(`/plans/${planId}/devices/${device}`, params);
}

/** The same page with an element failed, or restored if it is down. */
export function toggleHref(path: string, current: URLSearchParams, ref: string): string {
  const params = new URLSearchParams();
  let was = false;
  for (const [key, value] of current) {
    if (key === "down" && value === ref) was = true;
    else params.append(key, value);
  }
  if (!was) params.append("down", ref);
  return withQuery(path, params);
}

/** Where a suggestion of the question field leads. */
export function hrefOf(
  planId: string,
  suggestion: Suggestion,
  current: URLSearchParams,
  path?: string,
): string {
  const ref = suggestion.fail ?? suggestion.restore;
  if (ref) return toggleHref(path ?? `/plans/${planId}/map`, withoutQuestionText(current), ref);
  const clean = withoutQuestionText(current);
  if (suggestion.page === "device")
    return deviceHref(planId, suggestion.device ?? "", clean, suggestion.params);
  return pageHref(planId, suggestion.page, clean, suggestion.params);
}

function withoutQuestionText(current: URLSearchParams): URLSearchParams {
  const params = new URLSearchParams(current);
  params.delete("q");
  params.delete("here");
  return params;
}

/** The same page with a parameter that can stand several times. */
export function withParams(current: URLSearchParams, key: string, values: readonly string[]): string {
  const params = new URLSearchParams(current);
  params.delete(key);
  for (const value of values) params.append(key, value);
  return `?${queryText(params)}`;
}

/** The same page with one parameter set, or removed if the value is null. */
export function withParam(current: URLSearchParams, key: string, value: string | null): string {
  const params = new URLSearchParams(current);
  if (value === null) params.delete(key);
  else params.set(key, value);
  return `?${queryText(params)}`;
}
