-- Whose lines somebody may read: '"all"', or a list of ids of accounts; null as their role says.
alter table people add column line_accounts jsonb;
