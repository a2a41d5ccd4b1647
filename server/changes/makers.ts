import type pg from "pg";
import {
  type Change,
  type Collection,
  deviceCollections,
  differencePlans,
  type Edit,
  type Plan,
  planCollections,
  sameValue,
} from "../../core/plan/index.ts";
import { sql } from "./sql.ts";

/** The sessions of all authors of a draft's differences: of the revisions between it and the approved one, whichever is
 * older, and of any revision whose edit gave an item its value in the draft. Undoing another person's work and having
 * that approved does not remove their authorship.
 * @param base the approved revision
 * @param draft the revision to be approved */
export async function makersOf(
  client: pg.PoolClient,
  plan: string,
  base: number,
  draft: number,
): Promise<Set<string>> {
  const between = await client.query<{ session: string }>(sql.sessionsBetween, [
    plan,
    Math.min(base, draft),
    Math.max(base, draft),
  ]);
  const makers = new Set(between.rows.map(({ session }) => session));
  const documents = await client.query<{ number: number; document: Plan }>(sql.documents, [
    plan,
    [base, draft],
  ]);
  const documentOf = (number: number) => documents.rows.find((row) => row.number === number)?.document;
  const [from, to] = [documentOf(base), documentOf(draft)];
  if (!from || !to) return makers;
  const wanted = new Map<string, Change[]>();
  for (const change of differencePlans(from, to)) {
    const place = placeOf(change);
    wanted.set(place, [...(wanted.get(place) ?? []), change]);
  }
  const edits = await client.query<{ session: string; edit: Edit }>(sql.edits, [plan]);
  for (const { session, edit } of edits.rows) {
    if (makers.has(session)) continue;
    const made = edit.changes.some((change) =>
      wanted.get(placeOf(change))?.some(({ after }) => sameValue(after, change.after)),
    );
    if (made) makers.add(session);
  }
  return makers;
}

const keyOf = (collection: Collection, item: unknown) => collection.key(item);

/** The item that a change is of: where it stands, and its key there. */
function placeOf(change: Change): string {
  const { in: kind, before, after } = change;
  const item = after ?? before;
  switch (kind) {
    case "plan":
      return JSON.stringify([kind, change.collection, keyOf(planCollections[change.collection], item)]);
    case "device":
      return JSON.stringify([
        kind,
        change.device,
        change.collection,
        keyOf(deviceCollections[change.collection], item),
      ]);
    case "policy-table":
      return JSON.stringify([kind, change.device, change.table, keyOf(deviceCollections.routes, item)]);
    case "device-settings":
      return JSON.stringify([kind, change.device]);
    case "plan-settings":
      return kind;
  }
}
