-- Boards: shared pictures, each panel with a signal. A change names the version it was made from, so that nobody overwrites what they have not seen.
create table boards (
  id integer generated always as identity primary key,
  title text not null unique,
  panels jsonb not null default '[]',
  version integer not null default 1,
  created_at bigint not null,
  created_by text not null,
  changed_at bigint not null,
  changed_by text not null
);
