/** What writing histories out and taking them in asks of the database. */
export const sql = {
  /** every plan that is not deleted */
  plans: `
    select id::text, name, revision as revisions, approved, four_eyes as "fourEyes", created_at as "madeAt"
    from plan where deleted_at is null order by plan.id`,
  /** plan id, the last revision: all up to it, oldest first, without the plans in the middle of a change */
  history: `
    select number, kind, target, author, why, made_at as "madeAt", edit
    from revision where plan = $1 and number <= $2 and kind <> 'stage' order by number`,
  /** plan id, number, document, kind, edit, target, session, author, why, when */
  insertRevision: `
    insert into revision (plan, number, document, kind, edit, target, session, author, why, made_at)
    values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
  /** plan id, name, latest revision, approved, four eyes, made at, changed at */
  settlePlan: `
    update plan set name = $2, revision = $3, approved = $4, four_eyes = $5, created_at = $6, changed_at = $7
    where id = $1`,
} as const;
