-- Sweeps of whole plans, cut into pieces that workers take. A revision under one engine version never changes, so
-- results are permanent and reused.
create table sweep (
  id        bigint generated always as identity primary key,
  plan      bigint not null,
  revision  integer not null,
  engine    text not null,
  -- Initially failed elements, as references.
  down      text[] not null,
  depth     smallint not null check (depth between 1 and 3),
  stopped   boolean not null default false,
  made_at   timestamptz not null default now(),
  foreign key (plan, revision) references revision (plan, number) on delete cascade,
  unique (plan, revision, engine, down, depth)
);

create table sweep_piece (
  sweep       bigint not null references sweep (id) on delete cascade,
  number      integer not null,
  -- The flows of the piece: positions in the plan's list, the last one not included.
  first_flow  integer not null,
  end_flow    integer not null check (end_flow > first_flow),
  -- Its job in the queue; null while the sweep is stopped.
  job         uuid,
  -- Who works on it, and the last sign of life.
  worker      text,
  seen_at     timestamptz,
  covered     bigint not null default 0,
  found       bigint not null default 0,
  result      jsonb,
  error       text,
  done_at     timestamptz,
  primary key (sweep, number),
  check ((done_at is null) = (result is null))
);
