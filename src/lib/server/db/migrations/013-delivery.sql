-- Messages of further kinds: of what was raised and cleared before anybody could be notified, and of alarms that cannot be judged. A raised message that its clearing one overtook is superseded.
alter table outbox drop constraint outbox_kind_check;
alter table outbox add constraint outbox_kind_check check (kind in ('confirm', 'raised', 'cleared', 'passed', 'unjudged'));
alter table outbox drop constraint outbox_state_check;
alter table outbox add constraint outbox_state_check check (state in ('queued', 'sent', 'failed', 'superseded'));
alter table outbox add column alarm_id integer references alarms (id) on delete cascade;
-- The more urgent, the higher.
alter table outbox add column priority integer not null default 0;
create index outbox_waiting on outbox (state, created_at) where state in ('queued', 'failed');

-- Links to confirm are made when they are sent: what was written before holds them as text.
update outbox set text = '', html = '' where kind = 'confirm';

-- Chunks that do not decode, set aside so that they stop nothing but themselves.
create table bad_chunks (
  account_id integer not null,
  series_id integer not null,
  resolution_ms integer not null,
  period_from bigint not null,
  points integer not null,
  reason text not null,
  found_at timestamptz not null default now(),
  bytes bytea not null,
  primary key (account_id, series_id, resolution_ms, period_from)
);

create index incidents_open on incidents (id) where closed_at is null;
