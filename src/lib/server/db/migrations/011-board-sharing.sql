-- Who may see and change a board; links by which anybody may see one; what each person keeps at hand.
alter table boards add column owner_id integer references people on delete set null;
-- private: its owner and those named; workspace: everybody here, too.
alter table boards add column reach text not null default 'workspace' check (reach in ('private', 'workspace'));
-- What people of the workspace who may edit boards may do with this one.
alter table boards add column everyone text not null default 'edit' check (everyone in ('view', 'edit'));
-- Two private boards of different people may have the same title: neither tells of the other.
alter table boards drop constraint boards_title_key;
create unique index boards_title_in_workspace on boards (title) where reach = 'workspace';
create unique index boards_title_of_owner on boards (owner_id, title) where reach = 'private';

create table board_rights (
  board_id integer not null references boards on delete cascade,
  -- Either a person or everybody of a role.
  person_id integer references people on delete cascade,
  role text,
  may text not null check (may in ('view', 'edit')),
  check ((person_id is null) <> (role is null)),
  unique (board_id, person_id),
  unique (board_id, role)
);

create table board_links (
  id integer generated always as identity primary key,
  board_id integer not null references boards on delete cascade,
  hash bytea not null unique,
  -- What was picked when the link was made: it stays picked.
  choices jsonb not null,
  made_at bigint not null,
  made_by text not null,
  expires_at bigint not null,
  revoked_at bigint
);

create table board_favourites (
  board_id integer not null references boards on delete cascade,
  person_id integer not null references people on delete cascade,
  primary key (board_id, person_id)
);
