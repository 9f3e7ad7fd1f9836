-- Events also come from programs, each with the source that it names.
alter table events add column source text not null default '';
-- What it is about, where that is no resource that is known.
alter table events add column about text not null default '';
-- When the rules saw it; those that were stored before there were rules are as if they had been seen.
alter table events add column judged_at bigint;
update events set judged_at = at;
create index events_not_judged on events (at) where judged_at is null;
create index events_by_thing on events (account_id, resource_id, at);

create table event_rules (
  id integer primary key generated always as identity,
  definition jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- One that is removed stays, for the incidents that it raised.
  removed_at bigint
);

-- Which events acted by which rule, and on which incident.
create table event_effects (
  rule_id integer not null references event_rules (id) on delete cascade,
  account_id integer not null,
  event_id integer not null,
  incident_id integer references incidents (id) on delete cascade,
  effect text not null check (effect in ('raises', 'again', 'clears')),
  at bigint not null,
  judged_at bigint not null,
  primary key (rule_id, account_id, event_id),
  foreign key (account_id, event_id) references events (account_id, id) on delete cascade
);
create index event_effects_by_incident on event_effects (incident_id);
create index event_effects_by_judging on event_effects (judged_at);

-- The rule that raised an incident by events, what the first of them said, and when the last came.
alter table incidents add column event_rule_id integer references event_rules (id) on delete set null;
alter table incidents add column event_text text not null default '';
alter table incidents add column last_event_at bigint;
alter table incidents add column resource_id integer;
create unique index one_open_by_events on incidents (event_rule_id, key) where closed_at is null and event_rule_id is not null;
create index incidents_of_event_rule on incidents (event_rule_id) where event_rule_id is not null;
