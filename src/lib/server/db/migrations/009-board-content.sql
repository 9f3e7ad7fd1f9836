-- A board is one document beside its title; every version of it is kept, and who is on it is known, so that two who edit see each other.
alter table boards add column content jsonb;
update boards set content = jsonb_build_object('pickers', '[]'::jsonb, 'sections', '[]'::jsonb, 'panels', panels);
alter table boards alter column content set not null;
alter table boards drop column panels;

create table board_versions (
  board_id integer not null references boards on delete cascade,
  version integer not null,
  title text not null,
  content jsonb not null,
  made_at bigint not null,
  made_by text not null,
  primary key (board_id, version)
);
insert into board_versions (board_id, version, title, content, made_at, made_by)
select id, version, title, content, changed_at, changed_by from boards;

create table board_visits (
  board_id integer not null references boards on delete cascade,
  person_id integer not null references people on delete cascade,
  seen_at bigint not null,
  editing boolean not null,
  -- The panel that the person is changing; null when it is none.
  panel text,
  primary key (board_id, person_id)
);
