-- Requests that Bussola makes itself, on a schedule.
create table reachability_checks (
  id integer primary key generated always as identity,
  definition jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- How it stands: null before it is known.
  is_up boolean,
  since bigint,
  failures integer not null default 0,
  -- The newest attempt, and when the next is due; a process that makes it has claimed it until then.
  last_attempt jsonb,
  tried_at bigint,
  due_at bigint not null,
  claimed_until bigint
);
create index reachability_checks_due on reachability_checks (due_at);

-- Attempts at which something changed or failed: what went well is in the metrics.
create table reachability_attempts (
  check_id integer not null references reachability_checks (id) on delete cascade,
  at bigint not null,
  attempt jsonb not null,
  -- How it stood afterwards; null while that was not known.
  is_up boolean,
  primary key (check_id, at)
);
create index reachability_attempts_by_time on reachability_attempts (at);
