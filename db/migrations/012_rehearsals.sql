-- Outages that a worker performs in its machine's lab, and the observation beside the prediction.
create table rehearsal (
  id          bigint generated always as identity primary key,
  plan        bigint not null references plan (id) on delete cascade,
  revision    integer not null check (revision > 0),
  -- The steps of the outage, and the initially failed elements.
  steps       jsonb not null,
  down        text[] not null,
  state       text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
  asked_at    timestamptz not null default now(),
  asked_by    text not null,
  ended_at    timestamptz,
  seen_at     timestamptz,
  -- The current activity, or why it failed.
  told        text not null default '',
  result      jsonb
);
create index rehearsal_of on rehearsal (plan, id desc);
-- A plan is rehearsed once at a time.
create unique index rehearsal_open on rehearsal (plan) where state in ('waiting', 'running');
