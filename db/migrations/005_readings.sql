-- Device readings as they arrived: by plan, device and time. They never change a plan.
create table reading (
  id       bigint generated always as identity primary key,
  plan     bigint not null references plan (id) on delete cascade,
  device   text not null check (length(device) between 1 and 200),
  read_at  timestamptz not null default now(),
  author   text not null,
  facts    jsonb not null
);
create index reading_by_device on reading (plan, device, read_at desc);

-- The destinations and attached networks of a reading, for finding who knows an address.
create table reading_prefix (
  reading  bigint not null references reading (id) on delete cascade,
  prefix   cidr not null
);
create index reading_prefix_of on reading_prefix (reading);
create index reading_prefix_holds on reading_prefix using gist (prefix inet_ops);
