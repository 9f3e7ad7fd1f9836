-- Summaries that are sent regularly.
create table summary_plans (
  id integer primary key generated always as identity,
  definition jsonb not null,
  version integer not null default 1,
  changed_at bigint not null,
  changed_by text not null,
  -- When it is sent next; null while it is off.
  next_at bigint
);
create index summary_plans_due on summary_plans (next_at) where next_at is not null;

-- Summaries as they were sent, or as a link shows them.
create table summaries (
  id integer primary key generated always as identity,
  -- What it was called then stays when its plan is removed.
  plan_id integer references summary_plans (id) on delete set null,
  name text not null,
  definition jsonb not null,
  made_at bigint not null,
  made_by text not null,
  -- Until when its link is good, and which link that is: a number in it, so that one that is ended stays so.
  link_until bigint,
  link_number integer not null default 0
);
create index summaries_by_time on summaries (made_at);

create trigger rests before delete on summary_plans for each row execute function rest_row();
create trigger rests_changed before update of plan_id on summaries for each row execute function rest_row();

-- A message about a summary.
alter table outbox drop constraint outbox_kind_check;
alter table outbox add constraint outbox_kind_check
  check (kind in ('confirm', 'raised', 'cleared', 'passed', 'dismissed', 'grouped', 'unjudged', 'note', 'join', 'reset', 'test', 'summary'));
