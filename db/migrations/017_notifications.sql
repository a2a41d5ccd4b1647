-- Notifications for workers and open pages: each is "TOPIC" or "TOPIC ID", sent when its transaction commits.
create function notify_topic() returns trigger language plpgsql as $$
begin
  perform pg_notify('iron_fork', tg_argv[0] || coalesce(' ' || (to_jsonb(new) ->> tg_argv[1]), ''));
  return null;
end $$;

create trigger piece_changed after insert or update on sweep_piece
  for each row execute function notify_topic('sweep', 'sweep');
create trigger sweep_changed after update of stopped on sweep
  for each row execute function notify_topic('sweep', 'id');
create trigger reading_asked after insert on reading_run
  for each row execute function notify_topic('reading');
create trigger reading_changed after update of state on reading_run
  for each row when (old.state is distinct from new.state) execute function notify_topic('reading');
create trigger rehearsal_asked after insert on rehearsal
  for each row execute function notify_topic('rehearsal');
create trigger rehearsal_changed after update of state on rehearsal
  for each row when (old.state is distinct from new.state) execute function notify_topic('rehearsal');
create trigger reading_stored after insert on reading
  for each row execute function notify_topic('change');
create trigger change_happened after insert on change_event
  for each row execute function notify_topic('change');
create trigger change_stated after update of state on change
  for each row execute function notify_topic('change');
create trigger delivery_due after insert on webhook_delivery
  for each row execute function notify_topic('delivery');
