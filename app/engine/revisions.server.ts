import { differencePlans } from "../../core/plan/index.ts";
import type { EditablePlan } from "../../server/access/grants.ts";
import { type Author, headOf, saveEdit } from "../../server/plans.ts";
import { documentAt } from "./documents.server.ts";

/** Makes the newest revision as an older one was: an edit like any other, so that it can be looked at, approved and undone. */
export async function bringBack(
  planId: EditablePlan,
  revision: number,
  author: Author,
): Promise<{ ok: true } | { ok: false; error: string }> {
  const head = await headOf(planId);
  if (!head) return { ok: false, error: "there is no such revision to restore" };
  const [wanted, now] = await Promise.all([documentAt(planId, revision), documentAt(planId, head.revision)]);
  if (!wanted || !now) return { ok: false, error: `the plan has no revision ${revision}` };
  const changes = differencePlans(now, wanted);
  if (changes.length === 0)
    return { ok: false, error: `the plan is already identical to revision ${revision}` };
  const saved = await saveEdit(
    planId,
    head.revision,
    { label: `Restore revision ${revision}`, changes },
    author,
  );
  return saved.ok
    ? { ok: true }
    : { ok: false, error: saved.errors.map(({ message }) => message).join("; ") };
}
