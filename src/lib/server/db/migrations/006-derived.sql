-- Metrics that Bussola works out of others on a schedule and stores.
create table derived (
  id integer generated always as identity primary key,
  account_id integer not null references accounts (id) on delete cascade,
  name text not null unique,
  metric text not null unique,
  definition jsonb not null,
  enabled boolean not null default true,
  created_at bigint not null,
  created_by text not null,
  -- Every cell that ends by here has been worked out.
  computed_until bigint,
  -- What is still to be worked out of the past: [backfill_from, backfill_until).
  backfill_from bigint,
  backfill_until bigint,
  last_run_at bigint,
  last_error jsonb,
  series integer not null default 0,
  points bigint not null default 0,
  milliseconds double precision not null default 0
);
