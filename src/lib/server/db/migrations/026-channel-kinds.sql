-- Channels of further kinds, each with settings of its own.
alter table channels drop constraint channels_kind_check;
alter table channels add constraint channels_kind_check
  check (kind in ('email', 'chat-hook', 'webhook', 'text-message'));
alter table channels add column settings jsonb not null default '{"version": 1}';
-- What nobody may read: the whole address of a chat hook, the secrets of a webhook.
alter table channels add column sealed bytea;
-- Of a code that is typed instead of a link that is followed: tries that were wrong since it was sent.
alter table channels add column confirm_tries integer not null default 0;

alter table outbox drop constraint outbox_kind_check;
alter table outbox add constraint outbox_kind_check
  check (kind in ('confirm', 'raised', 'cleared', 'passed', 'unjudged', 'test'));
