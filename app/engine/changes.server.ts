import { isStepItem, itemPhrase, itemText, type Plan, parseItem, stepItem } from "../../core/plan/index.ts";
import { type Preference, type Runbook, runbookOf, stepCount } from "../../core/steps/index.ts";
import { type TextedRunbook, withTexts } from "../../exchange/texts/index.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { type Change, type ChangeWords, changeOf, type Proven } from "../../server/changes/changes.ts";
import { textField } from "./bodies.server.ts";
import { documentAt } from "./documents.server.ts";
import { modelAt, needPlan, notFound } from "./page.server.ts";

/** A change with the texts of its steps, and the plans that it leads from and to. */
export interface LoadedChange {
  readonly change: Change<Runbook>;
  /** The part that other people may see. */
  readonly told: Omit<Change, "runbook" | "id" | "session">;
  readonly runbook: TextedRunbook;
  readonly before: Plan;
  readonly after: Plan;
}

export async function loadChange(planId: ReadablePlan, number: string): Promise<LoadedChange> {
  const change = await changeOf<Runbook>(planId, number);
  if (!change) notFound(`The plan has no change ${number.slice(0, 20)}.`);
  const [before, after] = await Promise.all([
    documentAt(planId, change.base),
    documentAt(planId, change.draft),
  ]);
  if (!before || !after) notFound("The revisions of this change no longer exist.");
  const { runbook, id: _id, session: _session, ...told } = change;
  return { change, told, runbook: withTexts(before, after, runbook), before, after };
}

/** An item of a change's runbook for the audit log, with the label of its device. */
export function itemDetail({ change, after }: LoadedChange, item: string): Record<string, string> {
  const visit = parseItem(item)?.visit;
  const id = visit === undefined ? null : change.runbook.visits[visit - 1]?.device;
  const device = after.devices.find((one) => one.id === id);
  return { item: itemPhrase(item), ...(device ? { device: device.label ?? device.id } : {}) };
}

/** The proven order of a change from the approved revision to the newest one. `prefer` decides among safe orders. */
export async function proveDraft(
  planId: ReadablePlan,
  prefer?: Preference,
): Promise<{ ok: true; proven: Proven } | { ok: false; error: string }> {
  const head = await needPlan(planId);
  if (head.approved === head.revision)
    return { ok: false, error: "there is no draft: the current revision is the approved one" };
  const [before, after] = await Promise.all([modelAt(planId, head.approved), modelAt(planId, head.revision)]);
  const outcome = runbookOf(before, after, prefer);
  if (!outcome)
    return {
      ok: false,
      error:
        "the steps cannot be done one at a time: every order that was tried leads to a plan with missing references",
    };
  const { runbook } = outcome;
  if (runbook.visits.length === 0)
    return { ok: false, error: "the draft changes no device; approve the revision directly" };
  const steps = stepCount(runbook);
  return { ok: true, proven: { base: head.approved, draft: head.revision, runbook, steps } };
}

/** The items of a runbook that are ticked: each step, and the checks before and after each visit. */
export function itemsOf({ visits }: Pick<Runbook, "visits">): string[] {
  return visits.flatMap(({ steps, before, after }, v) => [
    ...(before.length > 0 ? [itemText({ visit: v + 1, what: "before" })] : []),
    ...steps.map((_, s) => stepItem(v, s)),
    ...(after.length > 0 ? [itemText({ visit: v + 1, what: "after" })] : []),
  ]);
}

/** The steps among them. */
export function stepItems(runbook: Pick<Runbook, "visits">): string[] {
  return itemsOf(runbook).filter(isStepItem);
}

const limits = { title: 200, reason: 5000, reference: 200, notes: 10_000 } as const;

/** The fields of a form that says what a change is about. */
export const wordFields = {
  title: textField,
  reason: textField,
  reference: textField,
  notes: textField,
  windowFrom: textField,
  windowTo: textField,
};

/** The texts in a change's form, or an error message. */
export function wordsIn(
  form: Readonly<Record<keyof typeof wordFields, string>>,
): { ok: true; words: ChangeWords } | { ok: false; error: string } {
  const text = (name: keyof typeof limits) => form[name].trim();
  for (const name of ["title", "reason", "reference", "notes"] as const) {
    if (text(name).length > limits[name])
      return { ok: false, error: `the ${name} has at most ${limits[name]} characters of text` };
  }
  if (text("title") === "") return { ok: false, error: "a change needs a title" };
  const [from, to] = [momentIn(form.windowFrom), momentIn(form.windowTo)];
  if (from === undefined || to === undefined)
    return { ok: false, error: "enter the window as date and time, such as 2027-03-05 22:00" };
  if (from && to && to < from) return { ok: false, error: "the window ends before it begins" };
  return {
    ok: true,
    words: {
      title: text("title"),
      reason: text("reason"),
      reference: text("reference"),
      windowFrom: from,
      windowTo: to,
      notes: text("notes"),
    },
  };
}

/** A date and time from a form, in UTC; null if empty, undefined if invalid. */
function momentIn(text: string): Date | null | undefined {
  if (text.trim() === "") return null;
  const match = /^(\d{4}-\d{2}-\d{2})[T ](\d{2}:\d{2})(?::\d{2})?$/.exec(text.trim());
  const moment = match ? new Date(`${match[1]}T${match[2]}:00Z`) : new Date(Number.NaN);
  return Number.isNaN(moment.getTime()) || moment.getUTCFullYear() < 2000 ? undefined : moment;
}
