-- Whether changes need a second approver.
alter table plan add column four_eyes boolean not null default false;

-- A draft that is to go out to the devices: from a revision to another, with the order of its steps as it was proven.
create table change (
  id          bigint generated always as identity primary key,
  plan        bigint not null references plan (id) on delete cascade,
  number      integer not null check (number > 0),
  base        integer not null,
  draft       integer not null,
  title       text not null check (title <> ''),
  reason      text not null,
  reference   text not null,
  window_from timestamptz,
  window_to   timestamptz,
  notes       text not null,
  runbook     jsonb not null,
  state       text not null check (state in ('proposed', 'approved', 'done', 'turned back', 'withdrawn')),
  author      text not null,
  session     uuid not null,
  made_at     timestamptz not null default now(),
  unique (plan, number),
  foreign key (plan, base) references revision (plan, number),
  foreign key (plan, draft) references revision (plan, number),
  check (window_to >= window_from)
);

-- The history of a change with its authors: texts, approvals, ticks. Append-only.
create table change_event (
  id      bigint generated always as identity primary key,
  change  bigint not null references change (id) on delete cascade,
  kind    text not null check (kind in
            ('proposed', 'rewritten', 'approved', 'ticked', 'unticked', 'done', 'turned back', 'withdrawn')),
  detail  jsonb not null,
  author  text not null,
  session uuid not null,
  at      timestamptz not null default now()
);

create index change_event_by_change on change_event (change, id);

-- Plans in the middle of a change are revisions outside the line: they are stored when first viewed.
alter table revision drop constraint revision_kind_check;
alter table revision add constraint revision_kind_check check (kind in ('load', 'edit', 'undo', 'redo', 'stage'));
alter table revision drop constraint revision_check;
alter table revision add constraint revision_check check ((kind in ('load', 'stage')) = (edit is null));

-- Custom device templates, one per profile.
create table template (
  plan    bigint not null references plan (id) on delete cascade,
  profile text not null check (profile <> ''),
  source  text not null,
  author  text not null,
  kept_at timestamptz not null default now(),
  primary key (plan, profile)
);
