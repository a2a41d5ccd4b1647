-- What was worked out of a revision by one version of the engine: it never changes, so it is kept and used again.
create table worked_out (
  plan      bigint not null,
  revision  integer not null,
  engine    text not null,
  -- What it is: a plan's sheet, its drawing, a page's first answer.
  what      text not null,
  value     jsonb not null,
  made_at   timestamptz not null default now(),
  primary key (plan, revision, engine, what),
  foreign key (plan, revision) references revision (plan, number) on delete cascade
);

-- Who waits for a sweep: it is stopped once nobody does.
create table sweep_asker (
  sweep    bigint not null references sweep (id) on delete cascade,
  session  uuid not null,
  primary key (sweep, session)
);
