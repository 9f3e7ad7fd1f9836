-- Promises over a period.
create table objectives (
  id integer primary key generated always as identity,
  definition jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- The alarm that is raised by it; it may have been removed since.
  alarm_id integer
);
-- When somebody ended a shelving before its time: maintenance is left out of promises up to then.
alter table shelvings add column ended_at bigint;
