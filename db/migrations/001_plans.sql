create table plan (
  id          bigint generated always as identity primary key,
  name        text not null check (name <> ''),
  revision    integer not null check (revision > 0),
  created_at  timestamptz not null default now(),
  changed_at  timestamptz not null default now()
);

-- Every revision with its document, and who made it, when and why.
create table revision (
  plan        bigint not null references plan (id) on delete cascade,
  number      integer not null check (number > 0),
  document    jsonb not null,
  kind        text not null check (kind in ('load', 'edit', 'undo', 'redo')),
  -- The edit that made this revision of the one before it; none for a loaded document.
  edit        jsonb,
  -- The revision that an undo took back, or the undo that a redo took back.
  target      integer,
  session     uuid not null,
  author      text not null,
  why         text not null,
  made_at     timestamptz not null default now(),
  primary key (plan, number),
  foreign key (plan, target) references revision (plan, number),
  check ((kind = 'load') = (edit is null)),
  check ((kind in ('undo', 'redo')) = (target is not null))
);

create index revision_by_session on revision (plan, session, number desc);

-- Where each plan's current routes lead, for search by address across plans.
create table route_index (
  plan         bigint not null references plan (id) on delete cascade,
  device       text not null,
  vrf          text not null,
  policy_table text,
  destination  cidr not null,
  next_hop     inet,
  out          text,
  kind         text not null check (kind in ('static', 'learned', 'connected'))
);

create index route_index_plan on route_index (plan);
create index route_index_destination on route_index using gist (destination inet_ops);
create index route_index_next_hop on route_index (next_hop);

-- What the server keeps for itself, such as the key that signs cookies.
create table setting (
  name  text primary key,
  value text not null
);
