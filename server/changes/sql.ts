/** All statements about changes. Parameters are described in the order $1, $2 …. */
export const sql = {
  /** plan */
  fourEyes: 'select four_eyes as "fourEyes" from plan where id = $1',
  /** plan, whether */
  setFourEyes: "update plan set four_eyes = $2 where id = $1",
  /** plan, after revision, up to revision: who made those */
  sessionsBetween:
    "select distinct session::text from revision where plan = $1 and number > $2 and number <= $3 and kind <> 'stage'",
  /** plan, sessions: their names */
  authors:
    "select distinct author from revision where plan = $1 and session::text = any($2::text[]) order by author",
  /** plan, revisions */
  documents: "select number, document from revision where plan = $1 and number = any($2::int[])",
  /** plan: every edit of it, with who made it */
  edits: "select session::text, edit from revision where plan = $1 and edit is not null",
  /** plan: newest first, without their runbooks */
  list: `
    select number, base, draft, title, reference, state, author, made_at as "madeAt",
           window_from as "windowFrom", window_to as "windowTo"
    from change where plan = $1 order by number desc limit 200`,
  /** plan, number */
  one: `
    select id::text, number, base, draft, title, reason, reference, window_from as "windowFrom", window_to as "windowTo",
           notes, runbook, state, author, session::text, made_at as "madeAt"
    from change where plan = $1 and number = $2`,
  /** plan, number: holds it until the transaction ends; with the revision of its plan that counts as approved */
  lock: `
    select c.id::text, c.base, c.draft, c.state, c.session::text, p.approved
    from change c join plan p on p.id = c.plan where c.plan = $1 and c.number = $2 for update of c`,
  /** plan: holds it, so that numbers are given one after the other */
  lockPlan: "select revision, approved from plan where id = $1 for update",
  /** plan, base, draft, title, reason, reference, from, to, notes, runbook, author, session */
  insert: `
    insert into change (plan, number, base, draft, title, reason, reference, window_from, window_to, notes, runbook, state,
                        author, session)
    select $1, coalesce(max(number), 0) + 1, $2, $3, $4, $5, $6, $7, $8, $9, $10, 'proposed', $11, $12
    from change where plan = $1
    returning id::text, number`,
  /** change, title, reason, reference, from, to, notes */
  rewrite: `
    update change set title = $2, reason = $3, reference = $4, window_from = $5, window_to = $6, notes = $7,
                      state = 'proposed'
    where id = $1`,
  /** change, state */
  setState: "update change set state = $2 where id = $1",
  /** change, kind, detail, author, session */
  event: "insert into change_event (change, kind, detail, author, session) values ($1, $2, $3, $4, $5)",
  /** change: oldest first */
  events: "select id::text, kind, detail, author, at from change_event where change = $1 order by id",
  /** plan, number: tells when anything was done with it, or its readings came */
  latest: `
    select c.state || ' ' || coalesce((select max(e.id)::text from change_event e where e.change = c.id), '')
             || ' ' || coalesce((select max(r.id)::text from reading r where r.plan = c.plan), '')
             || ' ' || coalesce((select max(u.id)::text || u.state from reading_run u join target t on t.id = u.target
                                 where t.plan = c.plan group by u.state order by 1 desc limit 1), '') as mark
    from change c where c.plan = $1 and c.number = $2`,
  /** change: the items that are ticked, each with who and when; an item's last word counts */
  ticks: `
    select item, author, at from (
      select distinct on (detail->>'item') detail->>'item' as item, kind, author, at
      from change_event where change = $1 and kind in ('ticked', 'unticked')
      order by detail->>'item', id desc) last
    where kind = 'ticked'`,
  /** plan, number, document: a plan in the middle of a change, beside the line of revisions */
  keepStage: `
    insert into revision (plan, number, document, kind, session, author, why)
    values ($1, $2, $3, 'stage', '00000000-0000-0000-0000-000000000000', '', 'in the middle of a change')
    on conflict do nothing`,
  /** plan, revision */
  approve: "update plan set approved = $2 where id = $1",
  /** plan */
  templates:
    'select profile, source, author, kept_at as "keptAt" from template where plan = $1 order by profile',
  /** plan, profile, source, author */
  keepTemplate: `
    insert into template (plan, profile, source, author) values ($1, $2, $3, $4)
    on conflict (plan, profile) do update set source = excluded.source, author = excluded.author, kept_at = now()`,
  /** plan, profile */
  dropTemplate: "delete from template where plan = $1 and profile = $2",
} as const;
