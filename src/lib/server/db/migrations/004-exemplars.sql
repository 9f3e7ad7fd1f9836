-- Things behind samples, such as requests with the ids of their traces: of each series the largest of every five minutes.
create table exemplars (
  account_id integer not null,
  series_id integer not null,
  cell bigint not null,
  at bigint not null,
  value double precision not null,
  labels jsonb not null,
  primary key (account_id, series_id, cell),
  foreign key (account_id) references accounts (id) on delete cascade
);
