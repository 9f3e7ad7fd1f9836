-- Instants are bigint milliseconds since the epoch, UTC. Large tables' keys begin with the account.

create table people (
  id integer generated always as identity primary key,
  name text not null unique,
  display_name text not null,
  role text not null check (role in ('viewer', 'editor', 'administrator')),
  password_hash text not null,
  zone text not null default 'UTC',
  created_at bigint not null
);

create table sessions (
  token_hash bytea primary key,
  person_id integer not null references people (id) on delete cascade,
  created_at bigint not null,
  expires_at bigint not null
);

create table accounts (
  id integer generated always as identity primary key,
  name text not null unique,
  provider text not null,
  endpoint text not null,
  key_id text not null,
  secret_sealed bytea not null,
  interval_ms integer not null default 60000,
  created_at bigint not null,
  created_by text not null,
  last_pull_at bigint,
  last_success_at bigint,
  last_error jsonb,
  newest_at bigint,
  discovered_at bigint,
  pulled_until bigint,
  history_from bigint not null,
  history_reached bigint
);

create table pulls (
  account_id integer not null references accounts (id) on delete cascade,
  started_at bigint not null,
  finished_at bigint not null,
  points integer not null,
  refused integer not null,
  error_kind text,
  primary key (account_id, started_at)
);

create table metrics (
  name text primary key,
  title text not null,
  description text not null,
  unit text not null,
  kind text not null,
  shape text not null,
  resource_type text not null,
  service text not null,
  sampling_ms integer not null,
  delay_ms integer not null
);

create table resources (
  account_id integer not null references accounts (id) on delete cascade,
  id integer generated always as identity,
  provider_id text not null,
  name text not null,
  type text not null,
  service text not null,
  region text not null,
  tags jsonb not null,
  first_seen_at bigint not null,
  last_seen_at bigint not null,
  primary key (account_id, id),
  unique (account_id, provider_id)
);

create table series (
  account_id integer not null references accounts (id) on delete cascade,
  id integer generated always as identity,
  resource_id integer not null,
  metric text not null references metrics (name),
  primary key (account_id, id),
  unique (account_id, resource_id, metric),
  foreign key (account_id, resource_id) references resources (account_id, id) on delete cascade
);

create table journal (
  account_id integer not null,
  id bigint generated always as identity,
  from_at bigint not null,
  to_at bigint not null,
  points integer not null,
  received_at bigint not null,
  batch bytea not null,
  primary key (account_id, id)
);

-- Compressing batches in the database made intake ten times slower; sealed samples are to be compressed by their own codec.
alter table journal alter column batch set storage external;

create index journal_by_id on journal (id);

create table channels (
  id integer generated always as identity primary key,
  kind text not null check (kind in ('email')),
  name text not null,
  address text not null unique,
  confirm_hash bytea not null,
  confirm_sent_at bigint,
  confirmed_at bigint,
  created_at bigint not null,
  created_by text not null
);

create table alarms (
  id integer generated always as identity primary key,
  name text not null,
  definition jsonb not null,
  created_at bigint not null,
  created_by text not null,
  changed_at bigint not null,
  changed_by text not null
);

create table incidents (
  id integer generated always as identity primary key,
  alarm_id integer not null references alarms (id) on delete cascade,
  account_id integer not null,
  series_id integer not null,
  severity text not null,
  opened_at bigint not null,
  closed_at bigint,
  peak double precision
);

create index incidents_by_time on incidents (opened_at);

create unique index one_open_incident on incidents (alarm_id, series_id) where closed_at is null;

create table alarm_series (
  alarm_id integer not null references alarms (id) on delete cascade,
  account_id integer not null,
  series_id integer not null,
  state text not null check (state in ('clear', 'raised', 'indeterminate')),
  since bigint not null,
  judged_until bigint not null,
  primary key (alarm_id, series_id)
);

create table state_changes (
  id bigint generated always as identity primary key,
  alarm_id integer not null references alarms (id) on delete cascade,
  account_id integer not null,
  series_id integer not null,
  incident_id integer references incidents (id) on delete set null,
  at bigint not null,
  from_state text not null,
  to_state text not null,
  evidence jsonb not null
);

create index state_changes_by_series on state_changes (alarm_id, series_id, at);

create table outbox (
  id integer generated always as identity primary key,
  channel_id integer not null references channels (id) on delete cascade,
  incident_id integer references incidents (id) on delete set null,
  kind text not null check (kind in ('confirm', 'raised', 'cleared')),
  subject text not null,
  text text not null,
  html text not null,
  state text not null default 'queued' check (state in ('queued', 'sent', 'failed')),
  attempts integer not null default 0,
  last_error text,
  created_at bigint not null,
  sent_at bigint
);
