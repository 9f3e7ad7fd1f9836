-- Backups, and rehearsals of restoring them.
create table backups (
  id integer primary key generated always as identity,
  kind text not null check (kind in ('backup', 'rehearsal')),
  -- Of a rehearsal: the backup that is restored.
  backup_id integer references backups (id) on delete cascade,
  state text not null check (state in ('running', 'done', 'failed', 'stopped')),
  began_at bigint not null,
  began_by text not null,
  ended_at bigint,
  -- Whether it was scheduled: such ones are removed when enough newer ones are there.
  is_scheduled boolean not null,
  -- The name of its file in the folder of backups; null once that is removed.
  file text,
  -- How far it is, while it runs; what was written or restored; why it failed.
  progress jsonb,
  result jsonb,
  problem jsonb,
  -- When whoever runs it was last seen, by the clock of the database: one that ended without a word is not waited for.
  seen_at timestamptz not null default now()
);
-- One at a time: both take as much as a machine gives.
create unique index backups_running on backups ((true)) where state = 'running';
create index backups_by_time on backups (began_at);

-- When backups are made. One row at most.
create table backup_plan (
  id integer primary key check (id = 1),
  definition jsonb not null,
  version integer not null default 1,
  -- When the next one is due; null while none is scheduled.
  next_at bigint,
  changed_at bigint not null,
  changed_by text not null
);
