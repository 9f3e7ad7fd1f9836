-- Metrics belong to a provider: two may report the same name at unlike intervals.
alter table series drop constraint series_metric_fkey;
alter table metrics drop constraint metrics_pkey;
alter table metrics add column provider text not null default 'levante';
alter table metrics alter column provider drop default;
alter table metrics add column recommended boolean not null default true;
alter table metrics add column level text not null default 'host' check (level in ('host', 'guest'));
alter table metrics add primary key (provider, name);

-- A series has labels beyond its resource.
alter table series drop constraint series_account_id_resource_id_metric_key;
alter table series add column labels jsonb not null default '{}';
alter table series add constraint series_identity unique (account_id, resource_id, metric, labels);
create index series_by_metric on series (metric);

-- A resource that is no longer found has ended; one that comes back goes on.
alter table resources add column ended_at bigint;
alter table resources add column former_names jsonb not null default '[]';
alter table resources add column guest text not null default 'none' check (guest in ('none', 'off', 'on'));
-- A person's word for this resource; null follows the plan.
alter table resources add column chosen boolean;

-- What is collected of a service of an account; without a row, the usual plan.
create table plans (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  plan jsonb not null,
  changed_at bigint not null,
  changed_by text not null,
  primary key (account_id, service)
);

-- How collecting goes, for each service of an account.
create table collections (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  last_pull_at bigint,
  last_success_at bigint,
  last_error jsonb,
  newest_at bigint,
  pulled_until bigint,
  late_until bigint,
  not_before bigint,
  primary key (account_id, service)
);

alter table accounts drop column last_pull_at;
alter table accounts drop column last_success_at;
alter table accounts drop column newest_at;
alter table accounts drop column pulled_until;
alter table accounts drop column history_reached;
alter table accounts drop column interval_ms;
-- What is wrong with the account itself: its discovery, not a service's collection.
alter table accounts add column discovery_tried_at bigint;
alter table accounts add column clock_ahead_ms bigint;
alter table accounts add column secret_changed_at bigint;
alter table accounts add column last_test jsonb;
alter table accounts add column event_cursors jsonb not null default '{}';

-- Spans still to be fetched: history wanted from the beginning, and what an outage left out.
create table gaps (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  kind text not null check (kind in ('history', 'outage')),
  from_at bigint not null,
  to_at bigint not null,
  whole_ms bigint not null,
  primary key (account_id, service, kind, from_at)
);

drop table pulls;
create table pulls (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  started_at bigint not null,
  points integer not null,
  requests integer not null,
  throttled integer not null,
  refused integer not null,
  failed boolean not null,
  is_history boolean not null,
  primary key (account_id, service, started_at, is_history)
);

-- Errors, grouped by cause.
create table intake_errors (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  fault text not null,
  message text not null,
  remedy text not null,
  first_at bigint not null,
  last_at bigint not null,
  count integer not null,
  mended_at bigint,
  primary key (account_id, service, fault, first_at)
);

-- Values that were dropped or refused, by reason.
create table dropped (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  reason text not null,
  count bigint not null,
  example text not null,
  last_at bigint not null,
  primary key (account_id, service, reason)
);

-- What a provider asks for its requests; people can change it.
create table prices (
  provider text primary key,
  per_thousand_requests double precision not null,
  changed_at bigint,
  changed_by text
);

-- What happened at a provider.
create table events (
  account_id integer not null references accounts (id) on delete cascade,
  id integer generated always as identity,
  provider_id text not null,
  resource_id integer,
  at bigint not null,
  kind text not null,
  text text not null,
  subject jsonb not null,
  primary key (account_id, id),
  unique (account_id, provider_id)
);

create index events_by_time on events (at);

-- Keys by which other programs send samples. The samples belong to the key's account.
create table keys (
  id integer generated always as identity primary key,
  account_id integer not null references accounts (id) on delete cascade,
  name text not null,
  hint text not null,
  hash bytea not null unique,
  scopes jsonb not null,
  created_at bigint not null,
  created_by text not null,
  expires_at bigint,
  revoked_at bigint,
  last_used_at bigint,
  most_series integer not null,
  most_bytes_a_day bigint not null,
  bytes_today bigint not null default 0,
  day_of_bytes bigint not null default 0
);
