-- A signal has rows now: what an alarm watched becomes a signal of one row.
update alarms
set definition = jsonb_set(
  definition,
  '{signal}',
  jsonb_build_object(
    'version', 2,
    'rows', jsonb_build_array(
      jsonb_build_object(
        'name', 'a',
        'metric', definition #> '{signal,metric}',
        'where', definition #> '{signal,where}',
        'statistic', definition #> '{signal,statistic}'
      )
    ),
    'step', definition #> '{signal,step}'
  )
)
where definition #>> '{signal,version}' = '1';

-- Signals that people keep under a name.
create table signals (
  id integer generated always as identity primary key,
  name text not null unique,
  definition jsonb not null,
  created_at bigint not null,
  created_by text not null,
  changed_at bigint not null,
  changed_by text not null
);

-- Groups of resources by rule.
create table groups (
  id integer generated always as identity primary key,
  name text not null unique,
  rule jsonb not null,
  created_at bigint not null,
  created_by text not null,
  changed_at bigint not null,
  changed_by text not null
);
