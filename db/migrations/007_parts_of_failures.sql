-- A piece of a sweep to depth 1 can be a part of the single failures, besides some of the flows.
alter table sweep_piece
  add column part  smallint not null default 0,
  add column parts smallint not null default 1,
  add check (part >= 0 and part < parts);
