-- Folders of boards, beside those of the services.
create table board_folders (
  id integer generated always as identity primary key,
  name text not null,
  created_at bigint not null,
  created_by text not null
);
create unique index board_folders_name on board_folders (lower(name));
alter table boards add column folder_id integer references board_folders (id) on delete set null;
