-- When somebody last opened a board, to the hour: what nobody opens is offered for removal.
alter table boards add column opened_at bigint;
