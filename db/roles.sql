-- The roles of the application's database, made and kept by the cluster's superuser; run by bin/setup.sh at each start.
-- iron_fork_owner owns the tables and migrates them. iron_fork_data reads and writes rows, and nothing else: what the
-- web server and the workers sign in as. Passwords come from the environment, and stand on no command line.
\set ON_ERROR_STOP on
\getenv owner_password OWNER_PASSWORD
\getenv data_password DATA_PASSWORD
select format('create role %I login', name) from unnest(array['iron_fork_owner', 'iron_fork_data']) as name
where not exists (select from pg_roles where rolname = name) \gexec
alter role iron_fork_owner nosuperuser nocreatedb nocreaterole password :'owner_password';
alter role iron_fork_data nosuperuser nocreatedb nocreaterole password :'data_password';
select format('grant connect, create, temporary on database %I to iron_fork_owner', current_database()) \gexec
select format('grant connect on database %I to iron_fork_data', current_database()) \gexec

-- What an earlier version made as the superuser.
do $$
declare one record;
begin
  for one in select nspname as name from pg_namespace where nspname in ('iron_fork', 'iron_fork_jobs') loop
    execute format('alter schema %I owner to iron_fork_owner', one.name);
  end loop;
  for one in
    select c.oid::regclass as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where n.nspname in ('iron_fork', 'iron_fork_jobs') and c.relkind in ('r', 'p', 'S', 'v')
      and c.relowner <> 'iron_fork_owner'::regrole
      -- A sequence of a column follows its table.
      and not (c.relkind = 'S' and exists (select from pg_depend d where d.objid = c.oid and d.deptype in ('a', 'i')))
  loop
    execute format('alter table %s owner to iron_fork_owner', one.name);
  end loop;
  for one in
    select p.oid::regprocedure as name from pg_proc p join pg_namespace n on n.oid = p.pronamespace
    where n.nspname in ('iron_fork', 'iron_fork_jobs') and p.proowner <> 'iron_fork_owner'::regrole
  loop
    execute format('alter function %s owner to iron_fork_owner', one.name);
  end loop;
  for one in
    select t.oid::regtype as name from pg_type t join pg_namespace n on n.oid = t.typnamespace
    where n.nspname in ('iron_fork', 'iron_fork_jobs') and t.typtype = 'e' and t.typowner <> 'iron_fork_owner'::regrole
  loop
    execute format('alter type %s owner to iron_fork_owner', one.name);
  end loop;
end $$;
