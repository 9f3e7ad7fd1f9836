-- A removed alarm stays for a while, so that removing can be taken back; nothing sees it but its incidents, which keep its name.
alter table alarms add column removed_at bigint;
