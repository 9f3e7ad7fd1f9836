-- Incidents that were over within a range are found without reading those that are open, of which a storm has thousands.
create index incidents_by_end on incidents (ended_at) where ended_at is not null;
