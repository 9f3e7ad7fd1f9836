import { drawnLimits } from '$lib/core/alarm';
import type { MessageContent } from '$lib/core/notify';
import { labelKey, plainPick, stepOf, type Signal } from '$lib/core/signal';
import { after, before, duration, hour, range, times, type Clock } from '$lib/core/time';
import { readableAlarm } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { incidentById } from '../incidents/incidents';
import type { Picture } from '../notify/senders/sender';
import type { Pictures } from '../notify/pictures/pictures';
import { resolveSignal, workOf } from '../query/signals/resolve';
import type { SignalEvaluator } from '../query/signals/work';

/** What is shown before an incident was raised, and cells that are drawn at most. */
const shownBefore = times(3, hour);
const mostCells = 1500;

interface PictureContext {
  readonly db: Queryable;
  readonly clock: Clock;
  readonly evaluator: SignalEvaluator;
  readonly pictures: Pictures;
}

/**
 * The picture of a message about one incident: its signal from three hours before it was raised, with the limits of its alarm.
 *
 * @param zone of whoever sees it
 * @returns null for messages about anything else, for combined alarms, and where nothing was measured
 */
export async function incidentPicture(
  { db, clock, evaluator, pictures }: PictureContext,
  content: MessageContent,
  zone: string
): Promise<Picture | null> {
  if (content.kind !== 'incident') return null;
  const incident = await incidentById(db, content.incidentId);
  const alarm = incident?.alarmId ? await readableAlarm(db, incident.alarmId) : null;
  const signal = alarm?.definition.signal;
  if (incident === null || alarm === null || signal === undefined) return null;
  const now = clock.now();
  const step = stepOf(signal);
  const from = before(incident.openedAt, shownBefore);
  const earliest = before(now, duration(step * mostCells));
  const span = range(from > earliest ? from : earliest, after(now, duration(0)));
  const own = ofResource(signal, incident);
  const worked = await evaluator.evaluate(workOf(await resolveSignal(db, own), now), span, step);
  if (worked.kind !== 'worked') return null;
  const row = worked.rows[0];
  const column =
    row?.columns.find(({ labels }) => labelKey(labels) === incident.key) ??
    (row?.columns.length === 1 ? row.columns[0] : undefined);
  if (row === undefined || column === undefined) return null;
  const values = Array.from(column.values, (value) => (Number.isFinite(value) ? value : null));
  if (!values.some((value) => value !== null)) return null;
  const png = await pictures.draw({
    ...{ unit: row.unit, start: worked.grid.start, step: worked.grid.step, values },
    limits: drawnLimits(alarm.definition.rule),
    raised: { from: incident.openedAt, to: incident.closedAt ?? now, severity: incident.severity },
    zone
  });
  return { png, alt: `${content.what} of ${content.subject} over the last hours` };
}

/** The signal of a single metric, of the incident's resource alone. */
function ofResource(
  signal: Signal,
  { resource, account }: { readonly resource: string; readonly account: string }
): Signal {
  const pick = plainPick(signal);
  if (pick === null || resource === '') return signal;
  const where = [
    { label: 'resource', is: [resource] },
    { label: 'account', is: [account] }
  ];
  return { ...signal, rows: [{ ...pick, where }] };
}
