import type { MessageContent } from '../../src/lib/core/notify';
import type { Evidence, Severity, State } from '../../src/lib/core/alarm';
import { instant, type Instant } from '../../src/lib/core/time';
import type { Watched } from '../../src/lib/server/alarms/alarms';
import type { Database } from '../../src/lib/server/db/pool';
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
