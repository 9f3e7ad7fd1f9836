-- Alarms watch what a signal yields, which need not be a stored series. States, changes and incidents are kept by a key of it, with its labels.
alter table alarm_series add column key text;
alter table alarm_series add column labels jsonb not null default '{}';
update alarm_series set key = series_id::text;
update alarm_series
set labels = series.labels || jsonb_build_object(
    'account', accounts.name,
    'provider', accounts.provider,
    'region', resources.region,
    'service', resources.service,
    'type', resources.type,
    'resource', resources.name
  )
from series
join accounts on accounts.id = series.account_id
join resources on resources.account_id = series.account_id and resources.id = series.resource_id
where series.account_id = alarm_series.account_id and series.id = alarm_series.series_id;
alter table alarm_series alter column key set not null;
alter table alarm_series drop constraint alarm_series_pkey;
alter table alarm_series add primary key (alarm_id, key);
alter table alarm_series alter column account_id drop not null;
alter table alarm_series alter column series_id drop not null;

alter table incidents add column key text;
alter table incidents add column labels jsonb not null default '{}';
-- The unit of its numbers; without one, that of its metric.
alter table incidents add column unit text;
update incidents set key = series_id::text;
update incidents
set labels = series.labels || jsonb_build_object(
    'account', accounts.name,
    'provider', accounts.provider,
    'region', resources.region,
    'service', resources.service,
    'type', resources.type,
    'resource', resources.name
  )
from series
join accounts on accounts.id = series.account_id
join resources on resources.account_id = series.account_id and resources.id = series.resource_id
where series.account_id = incidents.account_id and series.id = incidents.series_id;
alter table incidents alter column key set not null;
drop index one_open_incident;
create unique index one_open_incident on incidents (alarm_id, key) where closed_at is null;
alter table incidents alter column account_id drop not null;
alter table incidents alter column series_id drop not null;

alter table state_changes add column key text;
update state_changes set key = series_id::text;
alter table state_changes alter column key set not null;
drop index state_changes_by_series;
create index state_changes_by_key on state_changes (alarm_id, key, at);
alter table state_changes drop column account_id;
alter table state_changes drop column series_id;

-- Why an alarm cannot be judged at present.
alter table alarms add column last_error jsonb;
