-- What is charged, whatever the day: found again by what makes it the same from one bill to the next.
create table cost_items (
  account_id integer not null references accounts (id) on delete cascade,
  id integer not null generated always as identity,
  -- SHA-256 of its identity.
  key bytea not null,
  resource text,
  resource_name text not null,
  resource_type text not null,
  region text not null,
  service text not null,
  usage text not null,
  unit text not null,
  category text not null,
  currency text not null,
  labels jsonb not null,
  -- Rises with each change of any item.
  revision bigint not null,
  primary key (account_id, id)
);
create unique index cost_items_by_key on cost_items (account_id, key);
create index cost_items_by_revision on cost_items (revision);
create sequence cost_revisions;

-- What an account cost on a day (UTC, days since 1970-01-01), as columns: see core/cost/day-sheet.ts.
create table cost_days (
  account_id integer not null references accounts (id) on delete cascade,
  day integer not null,
  revision bigint not null,
  entries integer not null,
  amounts bytea not null,
  quantities bytea not null,
  -- When it was read last, and when it changed last.
  read_at bigint not null,
  changed_at bigint not null,
  -- The revision that its samples are of; null before there are any, and when a rate changed.
  sampled_revision bigint,
  primary key (account_id, day)
);
create index cost_days_by_day on cost_days (day);

-- How the bills of an account are read.
create table bill_reads (
  account_id integer primary key references accounts (id) on delete cascade,
  -- Days before this one are read and do not change any more.
  settled_until integer,
  -- Days from this one on are read; older ones follow piece by piece.
  history_from integer,
  read_at bigint,
  last_error jsonb,
  rejected jsonb
);

-- One's own currency, and how much of it one of another is from a day on.
create table cost_settings (
  only_one boolean primary key default true check (only_one),
  currency text not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null
);
create table cost_rates (
  currency text not null,
  from_day integer not null,
  rate double precision not null,
  set_at bigint not null,
  set_by text not null,
  primary key (currency, from_day)
);
