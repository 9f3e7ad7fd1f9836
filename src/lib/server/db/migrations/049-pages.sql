-- Accounts of OpenMetrics pages: where they are and how they are read, besides a credential.
alter table accounts add column settings jsonb;

-- How reading each page went last.
create table targets (
  account_id integer not null references accounts (id) on delete cascade,
  name text not null,
  url text not null,
  labels jsonb not null default '{}',
  is_up boolean,
  -- Since when it is up or down.
  since bigint,
  read_at bigint,
  took_ms integer,
  samples integer,
  left_out integer,
  problem text,
  primary key (account_id, name)
);
