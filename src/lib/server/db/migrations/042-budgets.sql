-- Amounts for some costs and a period.
create table budgets (
  id integer primary key generated always as identity,
  definition jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- The alarm that is raised by it; it may have been removed since.
  alarm_id integer
);
