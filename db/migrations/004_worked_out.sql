-- Cached results of a revision under one engine version: they never change.
create table worked_out (
  plan      bigint not null,
  revision  integer not null,
  engine    text not null,
  -- The kind of result: a plan's sheet, its drawing, a page's first answer.
  what      text not null,
  value     jsonb not null,
  made_at   timestamptz not null default now(),
  primary key (plan, revision, engine, what),
  foreign key (plan, revision) references revision (plan, number) on delete cascade
);

-- The sessions that wait for a sweep: it is stopped when none is left.
create table sweep_asker (
  sweep    bigint not null references sweep (id) on delete cascade,
  session  uuid not null,
  primary key (sweep, session)
);
