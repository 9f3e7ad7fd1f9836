-- Sealed samples: one compressed row for each series, resolution and period. Resolution 0 holds samples as they came, others are rollups.

create table chunks (
  account_id integer not null,
  series_id integer not null,
  resolution_ms integer not null,
  period_from bigint not null,
  from_at bigint not null,
  to_at bigint not null,
  points integer not null,
  changed_at bigint not null,
  bytes bytea not null,
  primary key (account_id, series_id, resolution_ms, period_from)
);

alter table chunks alter column bytes set storage external;

create index chunks_by_age on chunks (resolution_ms, to_at);

-- How far the sealed samples of a series reach.
create table series_spans (
  account_id integer not null,
  series_id integer not null,
  oldest_at bigint not null,
  newest_at bigint not null,
  primary key (account_id, series_id)
);

-- Journal rows up to here are sealed and gone. One row.
create table sealing (
  singleton boolean primary key default true check (singleton),
  sealed_id bigint not null,
  sealed_at bigint not null
);

insert into sealing (sealed_id, sealed_at) values (0, 0);
