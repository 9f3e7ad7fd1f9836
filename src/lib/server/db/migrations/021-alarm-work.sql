-- What the engine has to judge and when, who is about it, and what is remembered of the series of each alarm between judgements. A fence rises with each lease: who holds an older one cannot write.
create table alarm_work (
  alarm_id integer primary key references alarms (id) on delete cascade,
  due_at bigint not null,
  -- The earliest end of a cell that is not judged: new samples make the alarm due from then on.
  next_end bigint not null default 0,
  holder text,
  fence bigint not null default 0,
  leased_until bigint not null default 0,
  -- The version of the definition that the memory belongs to.
  version integer not null default 0,
  memory bytea
);
create index alarm_work_by_due on alarm_work (due_at);
create index alarm_work_by_next_end on alarm_work (next_end);
insert into alarm_work (alarm_id, due_at) select id, 0 from alarms;

-- Every definition that an alarm had.
alter table alarms add column version integer not null default 1;
create table alarm_versions (
  alarm_id integer not null references alarms (id) on delete cascade,
  version integer not null,
  definition jsonb not null,
  at bigint not null,
  by text not null,
  primary key (alarm_id, version)
);
insert into alarm_versions (alarm_id, version, definition, at, by)
select id, 1, definition, changed_at, changed_by from alarms;

-- A series is raised with a severity, which may change while its incident is open.
alter table alarm_series add column severity text;
update alarm_series
set severity = incidents.severity
from incidents
where incidents.alarm_id = alarm_series.alarm_id and incidents.key = alarm_series.key and incidents.closed_at is null;
alter table alarm_series drop column judged_until;
alter table state_changes add column from_severity text;
alter table state_changes add column to_severity text;
-- The gravest that it had.
alter table incidents add column gravest text;
update incidents set gravest = severity;
alter table incidents alter column gravest set not null;

-- What happened to incidents, in the order in which it was recorded. Whom to notify is decided from these, elsewhere.
create table incident_events (
  id bigint generated always as identity primary key,
  incident_id integer references incidents (id) on delete cascade,
  alarm_id integer references alarms (id) on delete set null,
  kind text not null check (kind in ('opened', 'severity', 'closed', 'ended', 'unjudged')),
  at bigint not null,
  recorded_at bigint not null,
  severity text,
  value double precision,
  peak double precision,
  -- Whom to notify was decided then; null before.
  handled_at bigint
);
create index incident_events_unhandled on incident_events (id) where handled_at is null;
create index incident_events_by_incident on incident_events (incident_id);
