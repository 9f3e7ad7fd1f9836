-- Programs that are sent each change, by a webhook: who follows what.
create table followers (
  id integer primary key generated always as identity,
  channel_id integer not null unique references channels (id) on delete cascade,
  -- Kinds of changes; every kind where there are none.
  kinds text[] not null,
  is_on boolean not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- Whoever sends holds it until then; after a try that failed, when the next one is due.
  next_at bigint not null default 0,
  -- Tries that failed on end, since when, and why the last one did.
  tries integer not null default 0,
  failing_since bigint,
  problem text,
  -- When it was switched off because it had failed for too long.
  stopped_at bigint
);
create trigger rests before delete on followers for each row execute function rest_row();

-- Changes for each follower, in their order: what waits and what was sent lately.
create table followed_changes (
  id bigint primary key generated always as identity,
  follower_id integer not null references followers (id) on delete cascade,
  kind text not null,
  at bigint not null,
  change jsonb not null,
  sent_at bigint,
  -- What it was answered.
  answer text
);
create index followed_changes_waiting on followed_changes (follower_id, id) where sent_at is null;
create index followed_changes_of on followed_changes (follower_id, id desc);

-- Stores a change for whoever follows its kind, in the transaction that makes it. One that is being removed is waited for, so that its removal fails nothing.
create function follow_change(of_kind text, happened bigint, what jsonb) returns void language sql as $$
  insert into followed_changes (follower_id, kind, at, change)
  select id, of_kind, happened, what from followers where is_on and (kinds = '{}' or of_kind = any (kinds)) for key share;
$$;

-- What Bussola itself does with an incident; what people do is among their acts.
create function follow_incident_event() returns trigger language plpgsql as $$
begin
  perform follow_change('incidents', new.recorded_at, jsonb_build_object(
    'action', new.kind, 'by', 'Bussola', 'means', 'engine', 'id', new.incident_id, 'alarm', new.alarm_id, 'since', new.at,
    'severity', new.severity, 'value', new.value,
    'name', coalesce((select alarm_name || coalesce(' on ' || (labels ->> 'resource'), '') from incidents where id = new.incident_id), (select name from alarms where id = new.alarm_id), ''),
    'labels', (select labels from incidents where id = new.incident_id),
    'path', coalesce('/incidents/' || new.incident_id, '/alarms/' || new.alarm_id, '')));
  return new;
end
$$;
create trigger followed after insert on incident_events for each row when (new.by is null) execute function follow_incident_event();
