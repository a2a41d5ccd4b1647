-- Runbooks say how much traffic their order moves, how much was proven, and where packets go in circles in unowned space.
-- Those kept before were not asked.
update change set runbook = runbook
  || '{"proven": {"states": 0, "flows": 0, "subnets": 0}, "moved": 0, "alternative": null}'
  || jsonb_build_object('visits', (
    select coalesce(jsonb_agg(visit || '{"loops": []}' order by place), '[]')
    from jsonb_array_elements(runbook -> 'visits') with ordinality as each (visit, place)));
