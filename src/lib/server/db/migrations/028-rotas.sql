-- Who is on call when.
create table rotas (
  id integer generated always as identity primary key,
  definition jsonb not null,
  version integer not null default 1,
  created_at bigint not null,
  created_by text not null,
  changed_at bigint not null,
  changed_by text not null
);

-- Spans in which somebody has the watch instead of whoever has it by the layers; the newest counts.
create table rota_overrides (
  id integer generated always as identity primary key,
  rota_id integer not null references rotas (id) on delete cascade,
  from_at bigint not null,
  to_at bigint not null,
  person_id integer not null references people (id) on delete cascade,
  reason text not null default '',
  created_at bigint not null,
  created_by text not null,
  check (to_at > from_at)
);
create index rota_overrides_of on rota_overrides (rota_id, to_at);

-- Somebody asks another to take a span over; once accepted, it is an override.
create table rota_swaps (
  id integer generated always as identity primary key,
  rota_id integer not null references rotas (id) on delete cascade,
  from_at bigint not null,
  to_at bigint not null,
  asked_by integer not null references people (id) on delete cascade,
  asked_of integer not null references people (id) on delete cascade,
  asked_at bigint not null,
  state text not null default 'asked' check (state in ('asked', 'accepted', 'declined', 'withdrawn')),
  answered_at bigint,
  check (to_at > from_at)
);
create index rota_swaps_open on rota_swaps (rota_id) where state = 'asked';

-- Shifts of which whoever has them was reminded.
create table rota_reminders (
  rota_id integer not null references rotas (id) on delete cascade,
  person_id integer not null references people (id) on delete cascade,
  from_at bigint not null,
  primary key (rota_id, person_id, from_at)
);

-- Calendars that programs read by a secret address: of a rota, of a person, or of a person in one rota.
create table calendar_links (
  id integer generated always as identity primary key,
  token_hash bytea not null unique,
  rota_id integer references rotas (id) on delete cascade,
  person_id integer references people (id) on delete cascade,
  created_at bigint not null,
  created_by text not null,
  read_at bigint,
  check (rota_id is not null or person_id is not null)
);
