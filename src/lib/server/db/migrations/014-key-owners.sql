-- Who made a key may revoke it.
alter table keys add column owner_id integer references people (id) on delete set null;
