-- What a message says is stored as data; each kind of channel writes it in its own form when it is sent. What was written before stays as it was written.
alter table outbox add column content jsonb;
update outbox
set content = case kind
  when 'confirm' then '{"version": 1, "kind": "confirm"}'::jsonb
  else jsonb_build_object('version', 1, 'kind', 'written', 'subject', subject, 'text', text)
end;
alter table outbox alter column content set not null;
alter table outbox drop column text;
alter table outbox drop column html;
-- The same for every try of a message: receivers know by it that they have it already.
alter table outbox add column key uuid not null default gen_random_uuid();
create unique index outbox_key on outbox (key);

-- Each try to send a message: what was sent and what was answered.
create table delivery_attempts (
  id bigint generated always as identity primary key,
  outbox_id integer not null references outbox (id) on delete cascade,
  at bigint not null,
  took_ms integer not null,
  request text not null,
  answer text not null,
  -- Null when it was taken.
  error text
);
create index delivery_attempts_of on delivery_attempts (outbox_id, id);
