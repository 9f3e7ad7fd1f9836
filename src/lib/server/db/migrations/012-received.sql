-- What other programs send is described by each key for itself: one key's words never change another's, nor a provider's.
alter table metrics drop constraint metrics_pkey;
alter table metrics add column account_id integer references accounts (id) on delete cascade;
alter table metrics add constraint metrics_identity unique nulls not distinct (provider, account_id, name);

insert into metrics (provider, account_id, name, title, description, unit, kind, shape, resource_type, service, recommended, level, sampling_ms, delay_ms)
select distinct metrics.provider, accounts.id, metrics.name, title, description, unit, metrics.kind, shape, resource_type, service, recommended, level,
  sampling_ms, delay_ms
from metrics
join series on series.metric = metrics.name
join accounts on accounts.id = series.account_id and accounts.provider = metrics.provider
where metrics.provider = 'pushed';

delete from metrics where provider = 'pushed' and account_id is null;

-- How far apart the samples of a series come, learned of what is sent, and since when its running total counts.
alter table series add column interval_ms integer;
alter table series add column started_at bigint;
