-- Providers that people describe, as the text of their file, and what was requested and answered when one was tried, to try it again without the provider.
create table connectors (
  id integer primary key generated always as identity,
  key text not null unique,
  name text not null,
  text text not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null
);

create table connector_recordings (
  id integer primary key generated always as identity,
  connector_id integer not null references connectors (id) on delete cascade,
  name text not null,
  part text not null,
  recording jsonb not null,
  made_at bigint not null,
  made_by text not null,
  unique (connector_id, name)
);

create trigger rests before delete on connectors for each row execute function rest_row();
create trigger rests before delete on connector_recordings for each row execute function rest_row();
