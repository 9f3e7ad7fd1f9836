-- Alarms are judged over stored history, newest first: what was raised then is an incident of which nobody was notified.
create table alarm_history (
  alarm_id integer primary key references alarms (id) on delete cascade,
  -- The span that is wanted, and down to where it has been judged.
  wanted_from bigint not null,
  judged_from bigint not null
);
alter table incidents add column judged_afterwards boolean not null default false;
