-- People: their mail, how they sign in, their teams; and what everybody did.
alter table people alter column password_hash drop not null;
alter table people
  add column mail text,
  -- Hours at which they are not disturbed; null for none.
  add column quiet jsonb,
  add column disabled_at bigint,
  -- Who they are at the issuer that signs them in.
  add column issuer text,
  add column issuer_subject text,
  -- The sealed secret of the second factor, once it was confirmed; the step of the code that was used last.
  add column factor bytea,
  add column factor_step bigint not null default 0,
  add constraint people_subject unique (issuer, issuer_subject);
create unique index people_mail on people (lower(mail));

alter table sessions
  add column id integer generated always as identity unique,
  add column address text not null default '',
  add column agent text not null default '';

-- Links and half sign-ins, each used once.
create table person_links (
  token_hash bytea primary key,
  kind text not null check (kind in ('first', 'invitation', 'reset', 'factor')),
  person_id integer references people (id) on delete cascade,
  expires_at bigint not null,
  tries integer not null default 0,
  check (person_id is not null or kind = 'first')
);
create index person_links_of on person_links (person_id);

create table recovery_codes (
  person_id integer not null references people (id) on delete cascade,
  code_hash bytea not null,
  primary key (person_id, code_hash)
);

create table teams (
  id integer generated always as identity primary key,
  name text not null,
  created_at bigint not null,
  created_by text not null
);
create unique index teams_name on teams (lower(name));
create table team_members (
  team_id integer not null references teams (id) on delete cascade,
  person_id integer not null references people (id) on delete cascade,
  primary key (team_id, person_id)
);
-- Boards, each of one team at most; alarms and rotas name their team themselves.
create table team_boards (
  board_id integer primary key references boards (id) on delete cascade,
  team_id integer not null references teams (id) on delete cascade
);

-- A message to somebody who is not to be disturbed before.
alter table outbox add column hold_until bigint;
create index outbox_sent on outbox (sent_at) where state = 'sent';

-- What was done, by whom: written once. The names are as they were then.
create table acts (
  id bigint generated always as identity primary key,
  at bigint not null,
  person_id integer,
  by text not null,
  means text not null check (means in ('person', 'key', 'link', 'nobody')),
  act text not null,
  what text not null,
  subject text not null default '',
  path text not null default '',
  outcome text not null check (outcome in ('done', 'refused')),
  address text not null default ''
);
create index acts_at on acts (at);

-- Nothing changes what was written; only what is older than it is stored is removed.
create function refuse_changed_acts() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' and current_setting('bussola.forgets_acts', true) = 'yes' then return old; end if; raise exception 'acts are written once'; end
$$;
create trigger acts_are_kept before update or delete on acts for each row execute function refuse_changed_acts();
create trigger acts_stay before truncate on acts execute function refuse_changed_acts();

alter table outbox drop constraint outbox_kind_check;
alter table outbox add constraint outbox_kind_check
  check (kind in ('confirm', 'raised', 'cleared', 'passed', 'grouped', 'unjudged', 'note', 'join', 'reset', 'test'));

-- Kinds of channels by which nothing leaves, since when; those who are on call were notified of it.
create table deaf_kinds (
  kind text primary key,
  since bigint not null
);
