-- A person can say in which unit a pushed metric really is: its numbers stay as they are. What the programs claim is remembered, so that what they send goes on to fit.
alter table metrics add column sent_unit text;
