-- Answers to requests that may be sent again (Idempotency-Key), for a day: by who sent them and the key they gave. Sealed, since some hold a secret.
create table remembered_answers (
  caller text not null,
  key text not null,
  -- Digest of what was requested: the same key for something else is a mistake.
  request text not null,
  -- Null while it is under way.
  answer bytea,
  made_at bigint not null,
  primary key (caller, key)
);
create index remembered_answers_made_at on remembered_answers (made_at);
