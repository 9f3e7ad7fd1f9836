-- A topic is a channel with subscribers, which are channels of their own; a device is a browser that shows notifications.
alter table channels drop constraint channels_kind_check;
alter table channels add constraint channels_kind_check
  check (kind in ('email', 'chat-hook', 'webhook', 'text-message', 'topic', 'push'));
alter table channels add column topic_id integer references channels (id) on delete cascade;
alter table channels drop constraint channels_address_key;
create unique index channels_address on channels (address) where topic_id is null;
create unique index subscribers_address on channels (topic_id, address) where topic_id is not null;

-- What signs notifications to devices; one for the workspace.
create table push_keys (
  id integer primary key check (id = 1),
  public_key text not null,
  sealed bytea not null
);
