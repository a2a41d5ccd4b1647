-- The revision that counts as approved: the draft is what differs from it.
alter table plan add column approved integer not null default 1;
alter table plan add constraint plan_approved_exists
  foreign key (id, approved) references revision (plan, number) deferrable initially deferred;

-- Documents of before now have no dismissals.
update revision set document = document || '{"dismissals": []}'::jsonb where not document ? 'dismissals';
