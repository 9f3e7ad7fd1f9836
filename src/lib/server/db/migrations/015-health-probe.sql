-- The one row that is written again and again to see whether commits go through.
create table health_probe (
  one boolean primary key default true check (one),
  commits bigint not null default 0
);
insert into health_probe (one) values (true);
