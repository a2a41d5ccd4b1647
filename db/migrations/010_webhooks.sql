-- Pending and finished deliveries.
create table webhook_delivery (
  id       uuid primary key default gen_random_uuid(),
  webhook  bigint not null references webhook (id) on delete cascade,
  event    jsonb not null,
  made_at  timestamptz not null default now(),
  tries    integer not null default 0,
  next_at  timestamptz not null default now(),
  done_at  timestamptz,
  told     text
);
create index webhook_delivery_open on webhook_delivery (next_at) where done_at is null;
