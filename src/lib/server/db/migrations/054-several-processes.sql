-- Adds only. Several processes on one database. Times are the database's own, ms since the epoch: the clocks of machines differ.

-- Processes that run, or did until lately.
create table processes (
  id text primary key,
  instance text not null,
  role text not null check (role in ('web', 'engine', 'all')),
  version text not null,
  -- The newest migration that it knows.
  schema integer not null,
  host text not null,
  started_at bigint not null,
  seen_at bigint not null
);

-- What one of several engines does at a time. A fence rises each time another one takes it over: who holds an older one cannot write.
create table duties (
  name text primary key,
  holder text,
  fence bigint not null default 0
);

-- What changed, for the other processes. It is a hint only: whoever misses some looks at everything.
create table news (
  id bigint generated always as identity primary key,
  process text not null,
  items jsonb not null,
  at bigint not null
);
create index news_by_at on news (at);

-- How often somebody tried something lately, such as to sign in: by a digest of who. The columns are those of the package that counts.
create table limits (
  key varchar(255) primary key,
  points integer not null default 0,
  expire bigint
);
