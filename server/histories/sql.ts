/** What writing histories out and taking them in asks of the database. */
export const sql = {
  /** every plan that is not deleted */
  plans: `
    select id::text, name, revision as revisions, approved, four_eyes as "fourEyes", created_at as "madeAt"
    from plan where deleted_at is null order by plan.id`,
  /** plan id, name, latest revision, approved, four eyes, made at, changed at */
  settlePlan: `
    update plan set name = $2, revision = $3, approved = $4, four_eyes = $5, created_at = $6, changed_at = $7
    where id = $1`,
} as const;
