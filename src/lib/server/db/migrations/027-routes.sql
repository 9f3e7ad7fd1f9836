-- A person's own way to be reached; null for a channel of all.
alter table channels add column person_id integer references people (id) on delete cascade;
create index channels_of_person on channels (person_id) where person_id is not null;

-- Who is notified of which incidents: an ordered list, of which the first route that takes an incident has it, and routes that only alarms have that name them.
create table routes (
  id integer generated always as identity primary key,
  -- Its position in the list; null for one that is not in it.
  place integer,
  -- Takes whatever no other takes; there is one at most.
  is_last boolean not null default false,
  definition jsonb not null,
  version integer not null default 1,
  created_at bigint not null,
  created_by text not null,
  changed_at bigint not null,
  changed_by text not null
);
create unique index routes_one_last on routes (is_last) where is_last;

-- Incidents that one route has and that are grouped together, and when their next message is due.
create table threads (
  id integer generated always as identity primary key,
  route_id integer not null references routes (id) on delete cascade,
  -- What they have in common.
  value text not null,
  state jsonb not null,
  due_at bigint,
  unique (route_id, value)
);
create index threads_by_due on threads (due_at) where due_at is not null;

-- The threads that an incident was ever in.
create table incident_threads (
  incident_id integer not null references incidents (id) on delete cascade,
  thread_id integer not null references threads (id) on delete cascade,
  -- Whether its route has it now; another took it over otherwise.
  is_current boolean not null default true,
  primary key (incident_id, thread_id)
);
create index incident_threads_of_thread on incident_threads (thread_id);

-- A message may be about several incidents.
alter table outbox add column incident_ids integer[] not null default '{}';
update outbox set incident_ids = array[incident_id] where incident_id is not null;
create index outbox_of_incidents on outbox using gin (incident_ids);
-- The messages of one conversation, whatever becomes of its thread.
alter table outbox add column thread_id integer;
alter table outbox add column route_id integer references routes (id) on delete set null;
-- When its incidents were acknowledged by its link, which counts once.
alter table outbox add column link_used_at bigint;
-- Who was reached by it, of a message to a person.
alter table outbox add column person_id integer references people (id) on delete set null;
alter table outbox drop constraint outbox_kind_check;
alter table outbox add constraint outbox_kind_check
  check (kind in ('confirm', 'raised', 'cleared', 'passed', 'grouped', 'unjudged', 'note', 'test'));

alter table incident_events drop constraint incident_events_kind_check;
alter table incident_events add constraint incident_events_kind_check
  check (kind in ('opened', 'severity', 'closed', 'ended', 'unjudged', 'acknowledged', 'unacknowledged', 'rerouted', 'unreached'));

-- What alarms notified so far becomes a route for each set of channels, which those alarms name.
with sets as (
  select distinct (select array_agg(id order by id) from (select distinct value::integer as id from jsonb_array_elements_text(definition -> 'channels')) as ids) as ids
  from (select definition from alarms union all select definition from alarm_versions) as every
  where jsonb_typeof(definition -> 'channels') = 'array' and jsonb_array_length(definition -> 'channels') > 0
), known as (
  select ids, array(select id from channels where id = any(ids) order by id) as channel_ids from sets
)
insert into routes (definition, created_at, created_by, changed_at, changed_by)
select jsonb_build_object(
    'version', 1,
    'name', left((select string_agg(name, ', ' order by id) from channels where id = any(channel_ids)), 80),
    'when', '{}'::jsonb,
    'steps', jsonb_build_array(jsonb_build_object(
      'after', 0,
      'notify', (select jsonb_agg(jsonb_build_object('kind', 'channel', 'channelId', id)) from unnest(channel_ids) as id)
    )),
    'group', '{"by": "incident", "wait": 0, "atMostEvery": 0}'::jsonb,
    'zone', 'UTC',
    'migratedFrom', to_jsonb(ids)
  ), extract(epoch from now())::bigint * 1000, 'Bussola', extract(epoch from now())::bigint * 1000, 'Bussola'
from known
where channel_ids <> '{}';

update alarms
set definition = alarms.definition || jsonb_build_object('route', routes.id)
from routes
where routes.definition -> 'migratedFrom' = (select jsonb_agg(id order by id) from (select distinct value::integer as id from jsonb_array_elements_text(alarms.definition -> 'channels')) as ids);
update alarm_versions
set definition = alarm_versions.definition || jsonb_build_object('route', routes.id)
from routes
where routes.definition -> 'migratedFrom' = (select jsonb_agg(id order by id) from (select distinct value::integer as id from jsonb_array_elements_text(alarm_versions.definition -> 'channels')) as ids);
update routes set definition = definition - 'migratedFrom';
