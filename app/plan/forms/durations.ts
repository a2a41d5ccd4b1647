import parse from "ms";

/** The accepted forms of a duration, for error messages. */
export const DURATION_FORMS = "a time with its unit, such as 500 ms, 2 s or 1 min";

/** A typed duration in milliseconds, to the microsecond; null if it is not one. A bare number is one only if it is 0. */
export function parseDuration(text: string): number | null {
  const trimmed = text.trim().replace(",", ".");
  if (
    !/^\d{1,9}(?:\.\d{1,3})?\s?(?:ms|milliseconds?|s|secs?|seconds?|m|mins?|minutes?|h|hours?)$/i.test(
      trimmed,
    )
  )
    return trimmed === "0" ? 0 : null;
  const found = parse(trimmed as parse.StringValue);
  return typeof found === "number" && Number.isFinite(found) ? Math.round(found * 1000) / 1000 : null;
}
