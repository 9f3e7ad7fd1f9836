-- How far erasing the history of a removed account is: rows of samples that there were when it began, and those that are left.
alter table accounts add column erase_total bigint;
alter table accounts add column erase_left bigint;
