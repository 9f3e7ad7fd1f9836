-- Somebody has seen an incident and looks after it.
alter table incidents add column acknowledged_at bigint;
alter table incidents add column acknowledged_by text;
alter table incident_events drop constraint incident_events_kind_check;
alter table incident_events add constraint incident_events_kind_check
  check (kind in ('opened', 'severity', 'closed', 'ended', 'unjudged', 'acknowledged', 'unacknowledged'));
-- The person whose doing it was; null for what the engine found.
alter table incident_events add column by text;
