import type { MessageContent } from '../../src/lib/core/notify';
import type { Evidence, Severity, State } from '../../src/lib/core/alarm';
import { instant, type Instant } from '../../src/lib/core/time';
import type { Watched } from '../../src/lib/server/alarms/alarms';
import type { Database, Queryable } from '../../src/lib/server/db/pool';
import { recordIncidents } from '../../src/lib/server/incidents/record';
import { oneRow } from '../../src/lib/server/db/pool';

/** Writes an open incident as the engine would. @returns its id */
export async function openIncident(
  db: Database,
  incident: Watched & { alarmId: number; unit: string; severity: Severity; openedAt: Instant },
  evidence?: Evidence
): Promise<number> {
  const { alarmId, unit, severity, openedAt, key, labels, seriesId, accountId } = incident;
  const draft = {
    id: null,
    watched: { key, labels, seriesId, accountId },
    unit,
    openedAt,
    closedAt: null,
    severity,
    gravest: severity,
    peak: null,
    events: []
  };
  const states = { from: 'clear' as State, to: 'raised' as State, fromSeverity: null, toSeverity: severity };
  const changes = evidence ? [{ key, draft: 0, at: openedAt, ...states, evidence }] : [];
  await db.transaction((within) => recordIncidents(within, alarmId, [draft], changes, openedAt));
  const rows = await db.rows<{ id: number }>('select max(id) as id from incidents where alarm_id = $1 and key = $2', [
    alarmId,
    key
  ]);
  return oneRow(rows).id;
}

export async function closeIncident(db: Database, id: number, at: Instant): Promise<void> {
  await db.rows('update incidents set closed_at = $2 where id = $1', [id, at]);
}

/** What a message about an incident says. */
export const incidentContent = (
  incidentId: number,
  news: 'raised' | 'cleared' | 'passed' | 'dismissed' = 'raised'
): Extract<MessageContent, { kind: 'incident' }> => ({
  kind: 'incident',
  why: 'news',
  news,
  incidentId,
  alarm: 'Processor nearly exhausted',
  event: '',
  severity: 'major',
  subject: 'booking-web-2',
  account: 'corallo-prod',
  region: 'perla-1',
  what: 'Processor use',
  unit: '%',
  condition: { kind: 'threshold', is: 'above', limit: 80 },
  openedAt: instant(1_777_881_600_000),
  closedAt: news === 'raised' ? null : instant(1_777_882_200_000),
  value: 93.4,
  peak: 97.1,
  service: 'machines',
  runbook: '',
  ending: '',
  nearby: [],
  notified: []
});

/** What {@link storeIncident} stores, where it is not the usual. */
interface StoredIncident {
  readonly alarmId: number | null;
  readonly severity: Severity;
  readonly labels: Readonly<Record<string, string>>;
  readonly accountId: number | null;
  readonly unit: string;
  readonly closedAt: Instant | null;
  readonly dismissedAt: Instant | null;
  /** The value of the event that it was raised, which is stored too unless this is left out. */
  readonly raisedAt: number | null;
}
let stored = 0;

/** Stores an incident by itself, whatever engine there is. @returns its id */
export async function storeIncident(db: Queryable, at: Instant, more: Partial<StoredIncident> = {}): Promise<number> {
  const { alarmId = null, severity = 'major', labels = {}, accountId = null, unit = '%' } = more;
  const { id } = oneRow(
    await db.rows<{ id: number }>(
      `insert into incidents (alarm_id, alarm_name, key, labels, severity, gravest, opened_at, unit, account_id, closed_at, dismissed_at)
       values ($1, 'Stored', $2, $3, $4, $4, $5, $6, $7, $8, $9)
       returning id`,
      [
        ...[alarmId, `stored ${++stored}`, labels, severity, at, unit, accountId],
        ...[more.closedAt ?? null, more.dismissedAt ?? null]
      ]
    )
  );
  if ('raisedAt' in more)
    await db.rows(
      `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity, value) values ($1, $2, 'opened', $3, $3, $4, $5)`,
      [id, alarmId, at, severity, more.raisedAt]
    );
  return id;
}

/** Stores so many incidents of an alarm that were raised at the same moment, of some severities in turn, and that they were. */
export async function storeStorm(
  db: Database,
  alarmId: number | null,
  many: number,
  at: Instant,
  severities: readonly Severity[]
): Promise<void> {
  await db.transaction(async (within) => {
    await within.rows(
      `insert into incidents (alarm_id, alarm_name, key, labels, severity, gravest, opened_at, unit)
       select $1, 'Storm', 'storm ' || i, jsonb_build_object('resource', 'machine-' || i), severity, severity, $2, '%'
       from generate_series(1, $3) as i, lateral (select ($4::text[])[1 + i % cardinality($4::text[])] as severity) as graded`,
      [alarmId, at, many, severities]
    );
    await within.rows(
      `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity)
       select id, alarm_id, 'opened', $2, $2, severity from incidents where alarm_id is not distinct from $1`,
      [alarmId, at]
    );
  });
}
