-- What is left out of lines and masked in them before they are stored.
create table line_rules (
  id integer primary key generated always as identity,
  definition jsonb not null,
  created_at bigint not null,
  created_by text not null,
  -- Lines that it left out or masked, and when the last of them arrived.
  lines bigint not null default 0,
  last_at bigint
);
