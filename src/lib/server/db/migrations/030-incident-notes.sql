-- What people write about an incident, as CommonMark.
create table incident_notes (
  id integer generated always as identity primary key,
  incident_id integer not null references incidents (id) on delete cascade,
  at bigint not null,
  by text not null,
  text text not null
);
create index incident_notes_of on incident_notes (incident_id, at);
