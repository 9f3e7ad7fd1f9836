-- What people removed rests for a while, and can be put back as it was.
create table removals (
  id bigint primary key generated always as identity,
  kind text not null,
  thing_id integer not null,
  name text not null,
  removed_at bigint not null,
  removed_by text not null
);
create index removals_by_time on removals (removed_at);

-- Rows as they were before, in the order in which they went; of one that was changed only, also what it became.
create table removed_rows (
  removal_id bigint not null references removals (id) on delete cascade,
  place bigint generated always as identity,
  table_name text not null,
  was jsonb not null,
  becomes jsonb,
  primary key (removal_id, place)
);

-- Within a transaction that says which removal it is, rows that go, or lose what they name, are stored.
create function rest_row() returns trigger language plpgsql as $$
declare
  removal text := current_setting('bussola.removal', true);
begin
  if removal is not null and removal <> '' then
    insert into removed_rows (removal_id, table_name, was, becomes)
    values (removal::bigint, tg_table_name, to_jsonb(old), case when tg_op = 'UPDATE' then to_jsonb(new) end);
  end if;
  if tg_op = 'UPDATE' then return new; end if;
  return old;
end
$$;

-- Puts back what went with a removal: parents before their children, as they went. What was changed only gets back what it had, where nobody has changed that since.
create function put_back(removal bigint) returns void language plpgsql as $$
declare
  one record;
  field text;
  columns text;
begin
  for one in select * from removed_rows where removal_id = removal order by place loop
    if one.becomes is null then
      select string_agg(quote_ident(column_name), ', ') into columns
      from information_schema.columns
      where table_schema = current_schema() and table_name = one.table_name and is_generated = 'NEVER';
      execute format('insert into %1$I (%2$s) overriding system value select %2$s from jsonb_populate_record(null::%1$I, $1)', one.table_name, columns)
      using one.was;
    else
      for field in select key from jsonb_each(one.was) where value is distinct from one.becomes -> key loop
        execute format(
          'update %1$I as now set %2$I = (jsonb_populate_record(null::%1$I, $1)).%2$I where id = ($1 ->> ''id'')::bigint and to_jsonb(now) -> %2$L is not distinct from $2 -> %2$L',
          one.table_name, field)
        using one.was, one.becomes;
      end loop;
    end if;
  end loop;
end
$$;

do $$
declare
  name text;
begin
  foreach name in array array[
    'boards', 'board_favourites', 'board_links', 'board_rights', 'board_versions', 'board_visits', 'board_folders', 'marks', 'signals', 'groups', 'derived',
    'channels', 'routes', 'rotas', 'calendar_links', 'rota_overrides', 'rota_swaps', 'budgets', 'objectives', 'reachability_checks', 'reachability_attempts',
    'line_rules', 'responses', 'teams', 'team_boards', 'team_members'
  ] loop
    execute format('create trigger rests before delete on %I for each row execute function rest_row()', name);
  end loop;
end
$$;
create trigger rests_changed before update of removed_at on alarms for each row execute function rest_row();
create trigger rests_changed before update of removed_at on event_rules for each row execute function rest_row();
create trigger rests_changed before update of folder_id on boards for each row execute function rest_row();
create trigger rests_changed before update of channel_id, route_id on outbox for each row execute function rest_row();
create trigger rests_changed before update of response_id on response_runs for each row execute function rest_row();
