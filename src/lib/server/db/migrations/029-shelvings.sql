-- What is silenced for a time: by whom, why, and of what. Planned maintenance is the same, made ahead and maybe recurring.
create table shelvings (
  id integer generated always as identity primary key,
  definition jsonb not null,
  -- Whether it is in force, and when that changes; null once it is over.
  active boolean not null default false,
  changes_at bigint,
  created_at bigint not null,
  created_by text not null,
  ended_by text
);
create index shelvings_by_change on shelvings (changes_at) where changes_at is not null;

-- The shelving that holds messages about an incident back; null for none.
alter table incidents add column shelving_id integer references shelvings (id) on delete set null;
create index incidents_shelved on incidents (shelving_id) where shelving_id is not null;

alter table incident_events drop constraint incident_events_kind_check;
alter table incident_events add constraint incident_events_kind_check
  check (kind in ('opened', 'severity', 'closed', 'ended', 'unjudged', 'acknowledged', 'unacknowledged', 'rerouted', 'unreached', 'shelved', 'unshelved'));
