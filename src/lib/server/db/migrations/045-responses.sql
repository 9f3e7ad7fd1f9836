-- What is done by itself when an alarm has been raised for a while.
create table responses (
  id integer primary key generated always as identity,
  definition jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- In whose right it acts: whoever saved it last.
  person_id integer references people (id) on delete set null,
  -- When it stopped itself after failures, and why; null while it acts.
  stopped_at bigint,
  stopped_why text
);

-- What is, was or will be done with resources. Before a provider is told, it stands here that it will be.
create table response_runs (
  id bigint primary key generated always as identity,
  key text not null unique,
  -- What it was called then stays when the rest is removed.
  response_id integer references responses (id) on delete set null,
  incident_id integer references incidents (id) on delete set null,
  -- Which of several times, of one response and incident.
  attempt integer not null default 1,
  account_id integer references accounts (id) on delete set null,
  resource_id integer,
  resource text not null,
  action jsonb not null,
  -- Whoever did it, or the name of the response.
  by text not null,
  state text not null check (state in ('held', 'sending', 'going', 'done', 'failed', 'refused', 'unknown', 'dropped')),
  says text not null default '',
  created_at bigint not null,
  sent_at bigint,
  ended_at bigint,
  -- When it is looked at again; null once nothing is left to be done.
  due_at bigint,
  claimed_until bigint,
  effect text check (effect in ('cleared', 'still raised')),
  effect_at bigint
);
create unique index response_runs_once on response_runs (response_id, incident_id, attempt) where response_id is not null;
create index response_runs_due on response_runs (due_at) where due_at is not null;
create index response_runs_by_resource on response_runs (resource_id, id);
create index response_runs_by_incident on response_runs (incident_id) where incident_id is not null;
create index response_runs_by_response on response_runs (response_id, id) where response_id is not null;

-- The accounts with whose resources somebody may do something: 'all', or ids; null as their role says.
alter table people add column act_accounts jsonb;

-- What is done by itself is written down as well.
alter table acts drop constraint acts_means_check;
alter table acts add constraint acts_means_check check (means in ('person', 'key', 'link', 'nobody', 'response'));
