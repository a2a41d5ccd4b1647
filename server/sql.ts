/** Every statement that the server runs, by name. Parameters are told in the order $1, $2 …. */
export const sql = {
  /** plan id */
  lockPlan: "select revision from plan where id = $1 for update",
  listPlans: `
    select p.id::text, p.name, p.revision, p.changed_at as "changedAt", r.author, r.document
    from plan p join revision r on r.plan = p.id and r.number = p.revision
    order by p.id`,
  /** plan id */
  headOf: "select id::text, name, revision, approved from plan where id = $1",
  /** plan id, revision number */
  revisionOf: "select document from revision where plan = $1 and number = $2",
  /** name */
  insertPlan: "insert into plan (name, revision) values ($1, 1) returning id::text",
  /** plan, number, document, kind, edit, target, session, author, why */
  insertRevision: `
    insert into revision (plan, number, document, kind, edit, target, session, author, why)
    values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
  /** plan id, revision number, name */
  moveHead: "update plan set revision = $2, name = $3, changed_at = now() where id = $1",
  /** plan id, revision number: that revision counts as approved from now on */
  approve: "update plan set approved = $2 where id = $1 and $2 <= revision",
  /** plan id */
  deletePlan: "delete from plan where id = $1",
  /** plan id, how many, before number */
  history: `
    select number, kind, target, author, why, made_at as "madeAt", edit
    from revision where plan = $1 and number < $3 order by number desc limit $2`,
  /** plan id, session */
  undoTarget: `
    select number, edit from revision r
    where plan = $1 and session = $2 and kind in ('edit', 'redo')
      and not exists (select from revision u where u.plan = r.plan and u.kind = 'undo' and u.target = r.number)
    order by number desc limit 1`,
  /** plan id, session */
  redoTarget: `
    select number, edit from revision r
    where plan = $1 and session = $2 and kind = 'undo'
      and not exists (select from revision d where d.plan = r.plan and d.kind = 'redo' and d.target = r.number)
      and not exists (select from revision e where e.plan = r.plan and e.session = $2 and e.kind = 'edit' and e.number > r.number)
    order by number desc limit 1`,
  /** plan id, revision number: who changed the plan after it */
  changesSince:
    "select number, author, why from revision where plan = $1 and number > $2 order by number desc limit 3",
  /** plan id */
  clearRoutes: "delete from route_index where plan = $1",
  /** plan id, then one array a column */
  insertRoutes: `
    insert into route_index (plan, device, vrf, policy_table, destination, next_hop, out, kind)
    select $1, * from unnest($2::text[], $3::text[], $4::text[], $5::cidr[], $6::inet[], $7::text[], $8::text[])`,
  /** an address or prefix: routes whose destination holds it or lies within it, or whose next hop lies within it */
  searchRoutes: `
    select i.plan::text, p.name, i.device, i.vrf, i.policy_table as "policyTable", i.destination::text,
           host(i.next_hop) as "nextHop", i.out, i.kind,
           case when i.destination >>= $1::inet then 'holds' when i.destination << $1::inet then 'within' else 'next-hop' end as relation
    from route_index i join plan p on p.id = i.plan
    where i.destination && $1::inet or i.next_hop <<= $1::inet
    order by (i.destination >>= $1::inet) desc, masklen(i.destination) desc, p.name, i.device
    limit 200`,
  /** name, value: keeps what is there, and gives what holds */
  keepSetting: `
    with added as (insert into setting (name, value) values ($1, $2) on conflict (name) do nothing returning value)
    select value from added union all select value from setting where name = $1 limit 1`,
} as const;
