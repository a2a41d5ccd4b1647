/** Every statement that the server runs, by name. Parameters are told in the order $1, $2 …. */
export const sql = {
  /** plan id */
  lockPlan: "select revision from plan where id = $1 and deleted_at is null for update",
  /** engine: every plan, with its sheet where that is worked out */
  listPlans: `
    select p.id::text, p.name, p.revision, p.changed_at as "changedAt", r.author,
           left(r.document->>'description', 1000) as description, w.value as sheet
    from plan p join revision r on r.plan = p.id and r.number = p.revision
      left join worked_out w on w.plan = p.id and w.revision = p.revision and w.engine = $1 and w.what = 'sheet'
    where p.deleted_at is null order by p.id`,
  /** plan id, revision number, engine, what */
  workedOut: "select value from worked_out where plan = $1 and revision = $2 and engine = $3 and what = $4",
  /** plan id, revision number, engine, what, value: kept for the latest revisions only */
  keepWorkedOut: `
    with outdated as (delete from worked_out where plan = $1 and (revision < $2 - 20 or engine <> $3))
    insert into worked_out (plan, revision, engine, what, value) values ($1, $2, $3, $4, $5) on conflict do nothing`,
  /** plan id */
  headOf: "select id::text, name, revision, approved from plan where id = $1 and deleted_at is null",
  /** plan id, revision number */
  revisionOf: "select document from revision where plan = $1 and number = $2",
  /** plan id: bytes of its latest document as stored, compressed */
  documentSize: `
    select pg_column_size(r.document) as bytes
    from plan p join revision r on r.plan = p.id and r.number = p.revision where p.id = $1`,
  /** name */
  insertPlan: "insert into plan (name, revision) values ($1, 1) returning id::text",
  /** plan, number, document, kind, edit, target, session, author, why, when or null for now */
  insertRevision: `
    insert into revision (plan, number, document, kind, edit, target, session, author, why, made_at)
    values ($1, $2, $3, $4, $5, $6, $7, $8, $9, coalesce($10, now()))`,
  /** plan id, revision number, name */
  moveHead: "update plan set revision = $2, name = $3, changed_at = now() where id = $1",
  /** plan id, device, author, facts */
  insertReading:
    "insert into reading (plan, device, author, facts) values ($1, $2, $3, $4) returning id::text",
  /** reading, prefixes */
  insertReadingPrefixes: "insert into reading_prefix (reading, prefix) select $1, unnest($2::cidr[])",
  /** plan id, device, how many are kept */
  forgetReadings: `
    delete from reading where id in (
      select id from reading where plan = $1 and device = $2 order by read_at desc, id desc offset $3)`,
  /** plan id, an address or null: the newest reading of each device, of those that know the address where one is given */
  newestReadings: `
    select * from (
      select distinct on (device) id::text, device, read_at as "readAt", author, facts
      from reading where plan = $1 order by device, read_at desc, id desc) newest
    where $2::inet is null or exists (
      select from reading_prefix p where p.reading = newest.id::bigint and p.prefix >>= $2::inet)
    order by device`,
  /** plan id */
  credentials: `
    select c.id::text, c.name, c.way, c.prefixes::text[] as prefixes, c.made_at as "madeAt", c.author, count(t.id)::int as used
    from credential c left join target t on t.credential = c.id where c.plan = $1 group by c.id order by c.name`,
  /** plan id, name, way, sealed, author, prefixes: not where devices of another way use that name */
  keepCredential: `
    insert into credential (plan, name, way, sealed, author, prefixes) values ($1, $2, $3, $4, $5, $6::cidr[])
    on conflict (plan, name) do update
      set way = excluded.way, sealed = excluded.sealed, author = excluded.author, prefixes = excluded.prefixes,
          made_at = now()
      where credential.way = excluded.way or not exists (select from target t where t.credential = credential.id)`,
  /** plan id, credential: not while a target uses it */
  forgetCredential: `
    delete from credential c where c.plan = $1 and c.id = $2::bigint
      and not exists (select from target t where t.credential = c.id)`,
  /** plan id: with the last run, and when each was read */
  targets: `
    select t.id::text, t.device, host(t.address) as address, t.port, t.way, t.credential::text,
           t.every_minutes as "everyMinutes", t.proof is not null as known, t.offered_proof as offered,
           case when r.id is null then null else json_build_object(
             'id', r.id::text, 'state', r.state, 'askedAt', r.asked_at, 'endedAt', r.ended_at, 'told', r.told,
             'differences', r.differences, 'lines', r.lines) end as run,
           l.ended_at as "lastReadAt",
           t.every_minutes is not null
             and coalesce(l.ended_at, '-infinity') < now() - (t.every_minutes * interval '1 minute' + interval '2 minutes')
             as stale
    from target t
      left join lateral (select * from reading_run where target = t.id order by id desc limit 1) r on true
      left join lateral (
        select ended_at from reading_run where target = t.id and state = 'read' order by id desc limit 1) l on true
    where t.plan = $1 and t.trial = $2 order by t.device`,
  /** plan, device, address, port, way, credential, minutes, trial: a trial never replaces a device that is polled */
  keepTarget: `
    insert into target (plan, device, address, port, way, credential, every_minutes, trial)
      values ($1, $2, $3, $4, $5, $6, $7, $8)
    on conflict (plan, device) do update
      set trial = excluded.trial, made_at = now(), address = excluded.address, port = excluded.port, way = excluded.way, credential = excluded.credential,
          every_minutes = excluded.every_minutes,
          proof = case when target.address = excluded.address and target.port = excluded.port then target.proof end,
          offered_proof = case when target.address = excluded.address and target.port = excluded.port then target.offered_proof end
      where target.trial or not excluded.trial
    returning id::text`,
  /** trials of which nothing came */
  dropOldTrials: "delete from target where trial and made_at < now() - interval '1 day'",
  /** plan, target */
  dropTarget: "delete from target where plan = $1 and id = $2::bigint",
  /** plan, target */
  forgetProof: "update target set proof = null, offered_proof = null where plan = $1 and id = $2::bigint",
  /** plan, target, the key as the page showed it: no other is confirmed */
  confirmProof: `
    update target set proof = offered_proof, offered_proof = null
    where plan = $1 and id = $2::bigint and offered_proof = $3`,
  /** plan, targets or null for all, who asks: one run for each target that has none under way */
  askRuns: `
    insert into reading_run (target, asked_by)
    select id, $3 from target
    where plan = $1 and case when $2::bigint[] is null then not trial else id = any($2::bigint[]) end
    on conflict (target) where state in ('waiting', 'reading') do nothing returning id::text`,
  /** those whose interval has gone by since they were last asked for */
  askDueRuns: `
    insert into reading_run (target, asked_by)
    select t.id, 'the schedule' from target t
    where t.every_minutes is not null and not t.trial and not exists (
      select from reading_run r where r.target = t.id and r.asked_at > now() - t.every_minutes * interval '1 minute')
    on conflict (target) where state in ('waiting', 'reading') do nothing returning id::text`,
  /** plan, run */
  cancelRun: `
    update reading_run r set state = 'cancelled', ended_at = now(), told = 'cancelled' from target t
    where t.id = r.target and t.plan = $1 and r.id = $2::bigint and r.state in ('waiting', 'reading')`,
  /** run: what is read, and with what; nothing where it no longer waits */
  claimRun: `
    update reading_run r set state = 'reading', started_at = now(), seen_at = now()
    from target t, credential c
    where r.id = $1::bigint and r.state = 'waiting' and t.id = r.target and c.id = t.credential
    returning t.plan::text, t.device, host(t.address) as address, t.port, t.way, t.proof, t.trial, t.id::text as "targetId",
              c.name as "credentialName", c.sealed, c.prefixes::text[] as prefixes, r.asked_by as "askedBy"`,
  /** run, what is being asked */
  beatRun: "update reading_run set seen_at = now(), told = $2 where id = $1::bigint and state = 'reading'",
  /** run, state, what is told, differences, lines */
  endRun: `
    update reading_run set state = $2, ended_at = now(), told = $3, differences = $4, lines = $5
    where id = $1::bigint and state = 'reading'`,
  /** run, proof: what the device showed at first contact, for an administrator to confirm */
  offerProof: `
    update target t set offered_proof = $2 from reading_run r
    where r.id = $1::bigint and t.id = r.target and t.proof is null`,
  /** seconds of silence */
  failLostRuns: `
    update reading_run set state = 'failed', ended_at = now(), told = 'the worker that read it has gone'
    where state = 'reading' and seen_at < now() - $1 * interval '1 second'`,
  /** how many are kept of each target */
  forgetRuns: `
    delete from reading_run where id in (
      select id from (select id, row_number() over (partition by target order by id desc) as n from reading_run) r
      where n > $1)`,
  /** plan, revision, steps, down, by: nothing where one is open */
  askRehearsal: `
    insert into rehearsal (plan, revision, steps, down, asked_by) values ($1, $2, $3::jsonb, $4::text[], $5)
    on conflict (plan) where state in ('waiting', 'running') do nothing returning id::text`,
  /** plan, revision, steps, down */
  latestRehearsal: `
    select id::text, state, asked_by as "askedBy", asked_at as "askedAt", told, result from rehearsal
    where plan = $1 and revision = $2 and steps = $3::jsonb and down = $4::text[] order by id desc limit 1`,
  /** plan, rehearsal */
  cancelRehearsal: `
    update rehearsal set state = 'cancelled', ended_at = now(), told = 'cancelled'
    where plan = $1 and id = $2::bigint and state in ('waiting', 'running')`,
  /** rehearsal */
  claimRehearsal: `
    update rehearsal set state = 'running', seen_at = now() where id = $1::bigint and state = 'waiting'
    returning plan::text, revision, steps, down`,
  /** rehearsal, what is being done */
  beatRehearsal:
    "update rehearsal set seen_at = now(), told = $2 where id = $1::bigint and state = 'running'",
  /** rehearsal, state, what is told, result */
  endRehearsal: `
    update rehearsal set state = $2, ended_at = now(), told = $3, result = $4::jsonb
    where id = $1::bigint and state = 'running'`,
  /** seconds of silence */
  failLostRehearsals: `
    update rehearsal set state = 'failed', ended_at = now(), told = 'the worker that rehearsed it has gone'
    where state = 'running' and seen_at < now() - $1 * interval '1 second'`,
  /** plan, how many are kept */
  forgetRehearsals: `
    delete from rehearsal where plan = $1 and state not in ('waiting', 'running') and id not in (
      select id from rehearsal where plan = $1 order by id desc limit $2)`,
  /** plan id */
  deviceWork: `
    select id::text, device, kind, subject, text, author, noted_at as "notedAt"
    from device_work where plan = $1 order by device, noted_at`,
  /** plan, device, kind, subject, text, author */
  noteWork: `
    insert into device_work (plan, device, kind, subject, text, author) values ($1, $2, $3, $4, $5, $6)
    on conflict do nothing`,
  /** plan, work */
  dropWork: "delete from device_work where plan = $1 and id = $2::bigint",
  /** plan */
  layouts: `select id::text, name, document, author, kept_at as "keptAt" from layout where plan = $1 order by name`,
  /** plan, name, document, author */
  keepLayout: `
    insert into layout (plan, name, document, author) values ($1, $2, $3, $4)
    on conflict (plan, name) do update set document = excluded.document, author = excluded.author, kept_at = now()`,
  /** plan, layout */
  forgetLayout: "delete from layout where plan = $1 and id = $2::bigint",
  /** plan id, by whom: hidden from then on */
  hidePlan: "update plan set deleted_at = now(), deleted_by = $2 where id = $1 and deleted_at is null",
  /** plan id */
  restorePlan:
    "update plan set deleted_at = null, deleted_by = null where id = $1 and deleted_at is not null",
  /** days for which plans can be brought back */
  forgetPlans: "delete from plan where deleted_at < now() - $1 * interval '1 day'",
  deletedPlans: `
    select id::text, name, deleted_at as "deletedAt", deleted_by as "deletedBy" from plan
    where deleted_at is not null order by deleted_at desc`,
  /** plan id, how many, before number */
  history: `
    select number, kind, target, author, why, made_at as "madeAt", edit
    from revision where plan = $1 and number < $3 and kind <> 'stage' order by number desc limit $2`,
  /** plan id, session */
  undoTarget: `
    select number, edit from revision r
    where plan = $1 and session = $2 and kind in ('edit', 'redo')
      and not exists (select from revision u where u.plan = r.plan and u.kind = 'undo' and u.target = r.number)
    order by number desc limit 20`,
  /** plan id, session */
  redoTarget: `
    select number, edit from revision r
    where plan = $1 and session = $2 and kind = 'undo'
      and not exists (select from revision d where d.plan = r.plan and d.kind = 'redo' and d.target = r.number)
      and not exists (select from revision e where e.plan = r.plan and e.session = $2 and e.kind = 'edit' and e.number > r.number)
    order by number desc limit 20`,
  /** plan id, revision number: who changed the plan after it */
  changesSince:
    "select number, author, why from revision where plan = $1 and number > $2 and kind <> 'stage' order by number desc limit 3",
  /** plan id */
  clearRoutes: "delete from route_index where plan = $1",
  /** plan id, then one array a column */
  insertRoutes: `
    insert into route_index (plan, device, vrf, policy_table, destination, next_hop, out, kind)
    select $1, * from unnest($2::text[], $3::text[], $4::text[], $5::cidr[], $6::inet[], $7::text[], $8::text[])`,
  /** an address or prefix, how many, plans or null for all: routes whose destination holds it or lies within it, or whose next hop lies within it */
  searchRoutes: `
    select i.plan::text, p.name, i.device, i.vrf, i.policy_table as "policyTable", i.destination::text,
           host(i.next_hop) as "nextHop", i.out, i.kind,
           case when i.destination >>= $1::inet then 'holds' when i.destination << $1::inet then 'within' else 'next-hop' end as relation
    from route_index i join plan p on p.id = i.plan and p.deleted_at is null
    where (i.destination && $1::inet or i.next_hop <<= $1::inet) and ($3::bigint[] is null or i.plan = any($3::bigint[]))
    order by
      -- Defaults hold everything: they come last, so that they push nothing out that says more.
      case when i.destination >>= $1::inet and masklen(i.destination) > 0 then 0
           when i.next_hop <<= $1::inet then 1 when i.destination << $1::inet then 2 else 3 end,
      masklen(i.destination) desc, p.name, i.device
    limit $2`,
  /** name, value: keeps what is there, and gives what holds */
  keepSetting: `
    with added as (insert into setting (name, value) values ($1, $2) on conflict (name) do nothing returning value)
    select value from added union all select value from setting where name = $1 limit 1`,
  /** plan, revision, engine, down, depth: the sweep, made where it was not there; no longer stopped */
  askSweep: `
    insert into sweep (plan, revision, engine, down, depth) values ($1, $2, $3, $4, $5)
    on conflict (plan, revision, engine, down, depth) do update set stopped = false
    returning id::text, xmax = 0 as fresh`,
  /** the application's own tables */
  tables: "select tablename as name from pg_tables where schemaname = 'iron_fork' order by tablename",
  latestMigration: "select name from migration order by name desc limit 1",
  planTable: "select to_regclass('iron_fork.plan') is not null as there",
  anyPlan: "select exists (select from plan) as there",
  /** sweep, first flows, ends, parts of the failures, of how many */
  insertPieces: `
    insert into sweep_piece (sweep, number, first_flow, end_flow, part, parts)
    select $1, t.number - 1, t.first, t.last, t.part, t.parts
    from unnest($2::int[], $3::int[], $4::int[], $5::int[]) with ordinality as t (first, last, part, parts, number)`,
  /** sweep: gives each piece that is open and in no queue a job */
  giveJobs: `
    update sweep_piece set job = gen_random_uuid(), error = null
    where sweep = $1 and done_at is null and (job is null or error is not null) returning number, job`,
  /** plan, how many sweeps are kept with nothing down to begin with, and as many with something down */
  forgetSweeps: `
    delete from sweep where plan = $1 and id not in (
      select id from (
        select id, row_number() over (partition by down = '{}' order by made_at desc) as place
        from sweep where plan = $1) kept
      where place <= $2)`,
  /** sweep, session: waits for it from now on */
  joinSweep: "insert into sweep_asker (sweep, session) values ($1, $2) on conflict do nothing",
  /** sweep, session: waits no more; how many still do */
  leaveSweep: `
    with gone as (delete from sweep_asker where sweep = $1 and session = $2)
    select count(*)::int as left from sweep_asker where sweep = $1 and session <> $2`,
  /** plan, revision: stops what is still open for revisions before it */
  overtakeSweeps: `
    update sweep s set stopped = true where s.plan = $1 and s.revision < $2 and not s.stopped
      and exists (select from sweep_piece p where p.sweep = s.id and p.done_at is null) returning s.id::text`,
  /** sweep, plan */
  stopSweep: "update sweep set stopped = true where id = $1 and plan = $2",
  /** sweep, plan: takes the jobs of open pieces away, and tells which they were */
  takeJobs: `
    with open as (
      select p.sweep, p.number, p.job from sweep_piece p join sweep s on s.id = p.sweep
      where p.sweep = $1 and s.plan = $2 and p.done_at is null and p.job is not null for update of p)
    update sweep_piece p set job = null, seen_at = null, worker = null, covered = 0, found = 0
    from open o where p.sweep = o.sweep and p.number = o.number returning o.job`,
  /** sweep, plan, seconds after which a worker counts as lost */
  sweepProgress: `
    select s.stopped, count(*)::int as pieces, count(p.done_at)::int as done,
           sum(p.covered)::float8 as covered, sum(p.found)::float8 as found, max(p.error) as error,
           (count(distinct p.worker) filter (where p.done_at is null and p.seen_at > now() - $3 * interval '1 second'))::int as workers
    from sweep s join sweep_piece p on p.sweep = s.id
    where s.id = $1 and s.plan = $2 group by s.id`,
  /** sweep, plan: what is swept */
  sweepQuestion: "select plan::text, revision, engine, down, depth from sweep where id = $1 and plan = $2",
  /** sweep, plan */
  sweepResults: `
    select p.result from sweep_piece p join sweep s on s.id = p.sweep
    where s.id = $1 and s.plan = $2 order by p.number`,
  /** sweep, piece, job, worker: what there is to do; nothing where it is done, stopped or given to another job */
  claimPiece: `
    update sweep_piece p set seen_at = now(), worker = $4, covered = 0, found = 0
    from sweep s
    where s.id = p.sweep and p.sweep = $1 and p.number = $2 and p.job = $3 and p.done_at is null and not s.stopped
    returning s.plan::text, s.revision, s.engine, s.down, s.depth, p.first_flow as "firstFlow", p.end_flow as "endFlow",
      p.part, p.parts`,
  /** sweep, piece, job, covered, found */
  beatPiece: `
    update sweep_piece set seen_at = now(), covered = $4, found = $5
    where sweep = $1 and number = $2 and job = $3 and done_at is null returning number`,
  /** sweep, piece, result, covered, found: the first result stands */
  finishPiece: `
    update sweep_piece set result = $3, covered = $4, found = $5, error = null, done_at = now()
    where sweep = $1 and number = $2 and done_at is null`,
  /** sweep, piece, what went wrong */
  failPiece:
    "update sweep_piece set error = $3, seen_at = null, worker = null where sweep = $1 and number = $2 and done_at is null",
  /** sweep, piece, job: taken back by its own worker */
  releasePiece: `
    update sweep_piece set seen_at = null, worker = null
    where sweep = $1 and number = $2 and job = $3 and done_at is null`,
  /** seconds after which a worker counts as lost: takes its pieces back, and tells their jobs */
  lostPieces: `
    update sweep_piece set seen_at = null, worker = null, covered = 0, found = 0
    where done_at is null and error is null and job is not null and seen_at < now() - $1 * interval '1 second' returning job`,
} as const;
