-- Layouts of text tables belong to a plan, so that the plan's roles apply. Existing ones are copied to every plan.
alter table layout add column plan bigint references plan (id) on delete cascade;
alter table layout drop constraint layout_name_key;
insert into layout (plan, name, document, author, kept_at)
  select p.id, l.name, l.document, l.author, l.kept_at from layout l cross join plan p where l.plan is null;
delete from layout where plan is null;
alter table layout alter column plan set not null;
alter table layout add unique (plan, name);

-- A credential is sent to addresses in these prefixes only. An existing one keeps the devices that it was used for.
alter table credential add column prefixes cidr[] not null default '{}';
update credential c set prefixes = coalesce(
  (select array_agg(distinct network(t.address)::cidr) from target t where t.credential = c.id), '{}');

-- The key that a device showed at its first contact. It becomes the proof once an administrator confirms it.
alter table target add column offered_proof text;

-- A request writes at most one row.
create index record_request on record (request);

-- Browsers that an account has signed in from. Limits on attempts do not apply to them.
create table known_device (
  digest   bytea primary key,
  account  uuid not null references account (id) on delete cascade,
  seen_at  timestamptz not null default now()
);

-- Requests that several servers share the limits of are counted by rate-limiter-flexible in "attempt": expired rows go.
create index attempt_expire on attempt (expire);
