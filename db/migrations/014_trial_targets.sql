-- A device that is tested before it is saved: polled on request only, and its readings are not saved.
alter table target add column trial boolean not null default false;
alter table target add column made_at timestamptz not null default now();
