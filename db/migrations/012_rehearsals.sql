-- Outages that a worker lets happen on its machine's kernel, and what was seen beside what was predicted.
create table rehearsal (
  id          bigint generated always as identity primary key,
  plan        bigint not null references plan (id) on delete cascade,
  revision    integer not null check (revision > 0),
  -- What happens, as an outage's steps, and what is down before.
  steps       jsonb not null,
  down        text[] not null,
  state       text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
  asked_at    timestamptz not null default now(),
  asked_by    text not null,
  ended_at    timestamptz,
  seen_at     timestamptz,
  -- What is being done, or why it failed.
  told        text not null default '',
  result      jsonb
);
create index rehearsal_of on rehearsal (plan, id desc);
-- A plan is rehearsed once at a time.
create unique index rehearsal_open on rehearsal (plan) where state in ('waiting', 'running');
