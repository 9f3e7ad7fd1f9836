-- The anomaly band of each day that alarms were judged by, so that what was decided can be drawn again.
create table band_models (
  -- Of the signal, and of the series among what it yields.
  signal text not null,
  key text not null,
  -- Midnight UTC of the day on which it was in force.
  at bigint not null,
  model bytea not null,
  primary key (signal, key, at)
);
create index band_models_by_at on band_models (at);

-- Where the history of an alarm ends that was wanted: what still holds there goes on.
alter table alarm_history add column wanted_to bigint;
