import type { Check, Report } from "./check.ts";
import type { Context } from "./context.ts";

/** What a check reports in a context; it is run once there, however many other checks ask. */
export function reportsOf(context: Context, check: Check): readonly Report[] {
  return context.once(`reports of ${check.code}`, () => check.run(context));
}
