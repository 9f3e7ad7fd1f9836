-- What happened stays known when the alarm, channel or account is removed: names are stored with it.
alter table incidents add column alarm_name text;
alter table incidents add column metric text;
update incidents set alarm_name = alarms.name from alarms where alarms.id = incidents.alarm_id;
update incidents
set metric = series.metric
from series
where series.account_id = incidents.account_id and series.id = incidents.series_id;
alter table incidents alter column alarm_name set not null;
alter table incidents alter column alarm_id drop not null;
alter table incidents drop constraint incidents_alarm_id_fkey;
alter table incidents add constraint incidents_alarm_id_fkey foreign key (alarm_id) references alarms (id) on delete set null;
create index incidents_by_alarm on incidents (alarm_id);

alter table state_changes alter column alarm_id drop not null;
alter table state_changes drop constraint state_changes_alarm_id_fkey;
alter table state_changes add constraint state_changes_alarm_id_fkey foreign key (alarm_id) references alarms (id) on delete set null;
create index state_changes_by_incident on state_changes (incident_id);
create index state_changes_by_time on state_changes (at);

alter table outbox add column channel_name text;
alter table outbox add column address text;
update outbox set channel_name = channels.name, address = channels.address from channels where channels.id = outbox.channel_id;
alter table outbox alter column channel_name set not null;
alter table outbox alter column address set not null;
alter table outbox alter column channel_id drop not null;
alter table outbox drop constraint outbox_channel_id_fkey;
alter table outbox add constraint outbox_channel_id_fkey foreign key (channel_id) references channels (id) on delete set null;
alter table outbox drop constraint outbox_alarm_id_fkey;
alter table outbox add constraint outbox_alarm_id_fkey foreign key (alarm_id) references alarms (id) on delete set null;
-- A message whose channel was removed before it left is withdrawn.
alter table outbox drop constraint outbox_state_check;
alter table outbox add constraint outbox_state_check check (state in ('queued', 'sent', 'failed', 'superseded', 'withdrawn'));
create index outbox_by_incident on outbox (incident_id);
create index outbox_by_time on outbox (created_at);

-- An account that is removed, and whether what was collected from it is to be erased; else it stays readable as long as its plans say.
alter table accounts add column removed_at bigint;
alter table accounts add column removed_by text;
alter table accounts add column erase boolean not null default false;
