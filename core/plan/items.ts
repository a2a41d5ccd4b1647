/** Items that are ticked in a runbook: each step, and the checks before and after each visit. Written "v2.s3",
 * "v2.before", "v2.after"; visits and steps count from 1. */
export type Item =
  | { readonly visit: number; readonly what: "before" | "after" }
  | { readonly visit: number; readonly what: "step"; readonly step: number };

export function itemText(item: Item): string {
  return `v${item.visit}.${item.what === "step" ? `s${item.step}` : item.what}`;
}

/** The item of a step, by the positions of its visit and of itself, from 0. */
export function stepItem(visit: number, step: number): string {
  return itemText({ visit: visit + 1, what: "step", step: step + 1 });
}

/** null where the text is no item. */
export function parseItem(text: string): Item | null {
  const [, visit, what, step] = /^v(\d+)\.(before|after|s(\d+))$/.exec(text) ?? [];
  if (visit === undefined) return null;
  return step === undefined
    ? { visit: Number(visit), what: what as "before" | "after" }
    : { visit: Number(visit), what: "step", step: Number(step) };
}

/** An item as a phrase: "step 3 of visit 2", "the checks before visit 2"; other text is returned unchanged. */
export function itemPhrase(text: string): string {
  const item = parseItem(text);
  if (!item) return text;
  return item.what === "step"
    ? `step ${item.step} of visit ${item.visit}`
    : `the checks ${item.what} visit ${item.visit}`;
}

export function isStepItem(text: string): boolean {
  return parseItem(text)?.what === "step";
}

/** Steps that were ticked or unticked, in their order, from the events of a change. */
export function ticksOf(
  events: readonly { readonly kind: string; readonly detail: Readonly<Record<string, unknown>> }[],
): { readonly item: string; readonly done: boolean }[] {
  return events.flatMap(({ kind, detail: { item } }) =>
    (kind === "ticked" || kind === "unticked") && typeof item === "string" && isStepItem(item)
      ? [{ item, done: kind === "ticked" }]
      : [],
  );
}
