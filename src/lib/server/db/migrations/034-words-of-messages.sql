-- In which language people read dates.
alter table people add column date_locale text not null default 'en';

-- What messages say instead of the usual words; one row for the workspace.
create table message_templates (
  id integer primary key check (id = 1),
  templates jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null
);
