-- Polled devices and their credentials. Stored beside a plan, never in its document.
create table credential (
  id       bigint generated always as identity primary key,
  plan     bigint not null references plan (id) on delete cascade,
  name     text not null check (length(name) between 1 and 100),
  way      text not null,
  -- AES-256-GCM: initial vector, tag and text together. The key is not in the database.
  sealed   bytea not null,
  made_at  timestamptz not null default now(),
  author   text not null,
  unique (plan, name)
);

create table target (
  id             bigint generated always as identity primary key,
  plan           bigint not null references plan (id) on delete cascade,
  device         text not null check (length(device) between 1 and 200),
  address        inet not null,
  port           integer not null check (port between 1 and 65535),
  way            text not null,
  credential     bigint not null references credential (id),
  -- Polling interval in minutes; null for polling on request.
  every_minutes  integer check (every_minutes between 1 and 44640),
  -- The SHA-256 of its host key or certificate, from its first reading.
  proof          text,
  unique (plan, device)
);

-- One reading of a target, from being asked for to its end.
create table reading_run (
  id           bigint generated always as identity primary key,
  target       bigint not null references target (id) on delete cascade,
  state        text not null default 'waiting' check (state in ('waiting', 'reading', 'read', 'failed', 'cancelled')),
  asked_at     timestamptz not null default now(),
  asked_by     text not null,
  started_at   timestamptz,
  ended_at     timestamptz,
  seen_at      timestamptz,
  -- The current activity, or why it failed.
  told         text not null default '',
  -- Differences from the plan, as it was then.
  differences  integer,
  lines        integer
);
create index reading_run_of on reading_run (target, id desc);
-- A target is read once at a time.
create unique index reading_run_open on reading_run (target) where state in ('waiting', 'reading');

-- Differences recorded as work for the device.
create table device_work (
  id        bigint generated always as identity primary key,
  plan      bigint not null references plan (id) on delete cascade,
  device    text not null,
  kind      text not null,
  subject   text not null,
  text      text not null,
  author    text not null,
  noted_at  timestamptz not null default now(),
  unique (plan, device, kind, subject, text)
);

-- Layouts of text tables that were taught: known in every plan.
create table layout (
  id        bigint generated always as identity primary key,
  name      text not null unique check (length(name) between 1 and 200),
  document  jsonb not null,
  author    text not null,
  kept_at   timestamptz not null default now()
);
