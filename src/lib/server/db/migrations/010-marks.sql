-- Notes on the time axis: of an instant or a span, on one board, a service, or everywhere.
create table marks (
  id integer generated always as identity primary key,
  from_at bigint not null,
  -- Null when it is of an instant.
  to_at bigint,
  text text not null,
  board_id integer references boards on delete cascade,
  service text,
  -- Whether a person put it there, or a program with a key.
  source text not null,
  made_at bigint not null,
  made_by text not null,
  check (to_at is null or to_at > from_at),
  check (source in ('person', 'program'))
);
create index marks_by_time on marks (from_at);

-- Keys by which programs send metrics may put marks, too: whoever deploys says so.
update keys set scopes = scopes || '["marks"]'::jsonb where scopes @> '["metrics"]'::jsonb and not scopes @> '["marks"]'::jsonb;
