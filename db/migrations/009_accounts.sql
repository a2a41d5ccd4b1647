-- Who may do what. Without any account the application serves one machine alone, and everybody there may do everything.
create table account (
  id          uuid primary key default gen_random_uuid(),
  name        text not null check (name <> ''),
  role        text not null check (role in ('none', 'reads', 'edits', 'approves', 'administers')),
  -- argon2id, with its parameters and salt; none for those who sign in otherwise.
  password    text,
  -- Whom a sign-in provider knows them as: its issuer and their subject.
  issuer      text,
  subject     text,
  disabled_at timestamptz,
  made_at     timestamptz not null default now(),
  unique (issuer, subject),
  check ((issuer is null) = (subject is null))
);
create unique index account_name on account (lower(name));

-- Roles in single plans, in place of the one for the workspace.
create table plan_role (
  plan    bigint not null references plan (id) on delete cascade,
  account uuid not null references account (id) on delete cascade,
  role    text not null check (role in ('none', 'reads', 'edits', 'approves', 'administers')),
  primary key (plan, account)
);

create table passkey (
  id         text primary key,
  account    uuid not null references account (id) on delete cascade,
  public_key bytea not null,
  counter    bigint not null,
  transports text[] not null,
  name       text not null,
  made_at    timestamptz not null default now(),
  used_at    timestamptz
);

-- Challenges that a browser has been given and not answered yet.
create table challenge (
  value      text primary key,
  account    uuid references account (id) on delete cascade,
  purpose    text not null check (purpose in ('sign in', 'add a passkey', 'provider')),
  detail     jsonb not null default '{}',
  made_at    timestamptz not null default now()
);

-- Signed-in browsers. Only the secret's digest is stored.
create table sign_in (
  digest     bytea primary key,
  account    uuid not null references account (id) on delete cascade,
  agent      text not null,
  address    text not null,
  how        text not null check (how in ('password', 'passkey', 'provider', 'invitation')),
  made_at    timestamptz not null default now(),
  seen_at    timestamptz not null default now()
);

-- One-time links to an account or a new password.
create table invitation (
  digest     bytea primary key,
  account    uuid not null references account (id) on delete cascade,
  made_by    text not null,
  made_at    timestamptz not null default now(),
  used_at    timestamptz
);

-- Tokens for programs. Only the digest is kept.
create table token (
  id         bigint generated always as identity primary key,
  digest     bytea not null unique,
  -- None where the application serves one machine alone.
  account    uuid references account (id) on delete cascade,
  name       text not null,
  role       text not null check (role in ('reads', 'edits', 'approves', 'administers')),
  plan       bigint references plan (id) on delete cascade,
  made_at    timestamptz not null default now(),
  expires_at timestamptz not null,
  used_at    timestamptz,
  revoked_at timestamptz
);

-- Answers to requests that were sent with a key, so that one that is sent again is not done again.
create table kept_answer (
  asker   text not null,
  key     text not null,
  request bytea not null,
  status  integer not null,
  headers jsonb not null,
  body    bytea not null,
  at      timestamptz not null default now(),
  primary key (asker, key)
);

-- Who did what, when, from where. Each row carries the digest of the one before.
create table record (
  number   bigint primary key,
  at       timestamptz not null,
  who      text not null,
  account  uuid,
  address  text not null,
  action   text not null,
  subject  text not null,
  status   integer not null,
  request  text not null,
  detail   jsonb not null,
  previous bytea not null,
  digest   bytea not null unique
);

create function record_stands() returns trigger language plpgsql as $$
begin
  raise exception 'the record is only ever added to';
end $$;
create trigger record_is_kept before update or delete on record for each row execute function record_stands();
create trigger record_is_never_emptied before truncate on record execute function record_stands();

-- Plans that were deleted are hidden, and can be brought back for some time.
alter table plan add column deleted_at timestamptz;
alter table plan add column deleted_by text;

-- Receivers of a plan's events, and the secrets that sign them.
create table webhook (
  id         bigint generated always as identity primary key,
  plan       bigint references plan (id) on delete cascade,
  url        text not null,
  secret     bytea not null,
  made_by    text not null,
  made_at    timestamptz not null default now(),
  last_at    timestamptz,
  last_told  text
);

-- Attempts, counted by rate-limiter-flexible.
create table attempt (
  key    varchar(255) primary key,
  points integer not null default 0,
  expire bigint
);
