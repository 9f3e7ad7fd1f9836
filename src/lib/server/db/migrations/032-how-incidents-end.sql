-- How an incident ended, as a person says it. One that is closed while its numbers still raise it is over for people;
-- what becomes graver than it was then opens it again.
alter table incidents add column outcome text;
alter table incidents add column outcome_text text not null default '';
alter table incidents add column outcome_at bigint;
alter table incidents add column outcome_by text;
alter table incidents add column dismissed_at bigint;
alter table incidents add column dismissed_severity text;
alter table incidents add column ended_at bigint generated always as (least(closed_at, dismissed_at)) stored;
create index incidents_not_ended on incidents (id) where ended_at is null;

alter table incident_events drop constraint incident_events_kind_check;
alter table incident_events add constraint incident_events_kind_check
  check (kind in ('opened', 'severity', 'closed', 'ended', 'unjudged', 'acknowledged', 'unacknowledged', 'rerouted', 'unreached', 'shelved', 'unshelved', 'dismissed', 'outcome', 'reopened'));
-- What a person wrote with it.
alter table incident_events add column text text;

-- Pictures in notes, drawn anew from what was uploaded.
create table incident_pictures (
  id integer generated always as identity primary key,
  incident_id integer not null references incidents (id) on delete cascade,
  at bigint not null,
  by text not null,
  width integer not null,
  height integer not null,
  -- WebP.
  image bytea not null
);
create index incident_pictures_of on incident_pictures (incident_id);

alter table outbox drop constraint outbox_kind_check;
alter table outbox add constraint outbox_kind_check
  check (kind in ('confirm', 'raised', 'cleared', 'passed', 'dismissed', 'grouped', 'unjudged', 'note', 'join', 'reset', 'test'));
