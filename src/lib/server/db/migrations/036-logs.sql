-- What lines come from: one program, workload or device of an account.
create table log_streams (
  id integer generated always as identity primary key,
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  name text not null,
  -- Everything of it in the journal up to here is in segments.
  sealed_id integer not null default 0,
  unique (account_id, service, name)
);

-- Lines as they arrived, until they are sealed. What is acknowledged is here.
create table log_journal (
  id integer generated always as identity primary key,
  stream_id integer not null references log_streams (id) on delete cascade,
  -- The resource of the inventory that wrote them.
  resource_id integer,
  received_at bigint not null,
  lines integer not null,
  batch bytea not null
);
-- Packing them would take longer than writing them, and they do not stay.
alter table log_journal alter column batch set storage external;
create index log_journal_of_stream on log_journal (stream_id, id);

-- Sealed lines of a stream, as columns.
create table log_segments (
  id integer generated always as identity primary key,
  stream_id integer not null references log_streams (id) on delete cascade,
  from_at bigint not null,
  to_at bigint not null,
  lines integer not null,
  -- Of the text and the fields, about as they came.
  raw_bytes bigint not null,
  -- What is known of them without reading them, packed.
  summary bytea not null,
  -- The parts one after the other, each packed by itself, and where each ends.
  parts bytea not null,
  ends integer[] not null,
  sealed_at bigint not null
);
alter table log_segments alter column summary set storage external;
alter table log_segments alter column parts set storage external;
create index log_segments_by_time on log_segments (stream_id, to_at);

-- What lines of a stream have in common when their variable parts are left out.
create table log_shapes (
  stream_id integer not null references log_streams (id) on delete cascade,
  id integer not null,
  words jsonb not null,
  lines bigint not null,
  first_at bigint not null,
  last_at bigint not null,
  primary key (stream_id, id)
);

-- How far the lines of a provider are read: what writes them, and from when to when they are here.
create table log_feeds (
  account_id integer not null references accounts (id) on delete cascade,
  feed text not null,
  service text not null,
  -- Between them all lines are here.
  history_to bigint not null,
  until_at bigint not null,
  -- The piece under way before history_to: where it begins, and up to where its lines are here; null between two pieces.
  piece_from bigint,
  piece_until bigint,
  last_at bigint,
  last_error jsonb,
  primary key (account_id, feed)
);

-- What arrived in each hour, for what it costs.
create table log_arrived (
  account_id integer not null references accounts (id) on delete cascade,
  service text not null,
  hour bigint not null,
  lines bigint not null,
  bytes bigint not null,
  left_out bigint not null,
  refused bigint not null,
  primary key (account_id, service, hour)
);
