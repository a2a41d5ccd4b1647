-- That a change is being rolled back is known to everybody who has it open.
alter table change_event drop constraint change_event_kind_check;
alter table change_event add constraint change_event_kind_check check (kind in
  ('proposed', 'rewritten', 'approved', 'ticked', 'unticked', 'turning back', 'going on', 'done', 'turned back',
   'withdrawn'));
