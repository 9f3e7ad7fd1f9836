import { passes } from '../base/kill-points';
import { graver, type Severity } from '$lib/core/alarm';
import type { Instant } from '$lib/core/time';
import { dropSeries, saveStates, type Alarm, type AlarmSeries } from '../alarms/alarms';
import { saveWork, type TakenAlarm } from '../alarms/alarm-work';
import type { Database } from '../db/pool';
import { recordIncidents, type IncidentDraft, type NewChange, type NewEvent } from '../incidents/record';
import type { KnownIncident } from '../incidents/incidents';
import type { JudgedAlarm, JudgedSeries } from './judged';

/** Another engine took the alarm meanwhile: what was judged here is its to judge. */
export class LeaseLost extends Error {}

/**
 * Writes what was judged, in one transaction: what is remembered, states, changes with their numbers, incidents and what happened to them.
 *
 * @param restate whether all states are written, not those alone that changed: nobody could tell them before
 * @returns how many states were written, those of new series among them
 * @throws LeaseLost when another engine has taken the alarm; nothing is written then
 */
export async function record(
  db: Database,
  taken: TakenAlarm,
  alarm: Alarm,
  { unit, series, gone, open, work }: JudgedAlarm,
  now: Instant,
  restate = false
): Promise<number> {
  const { drafts, changes } = drafted(series, gone, open, unit, now);
  const written = series.filter((one) => restate || one.isNew || one.changes.length > 0);
  await db.transaction(async (within) => {
    if (!(await saveWork(within, taken, work))) throw new LeaseLost(`alarm ${alarm.id} was taken by another engine`);
    await recordIncidents(within, alarm.id, drafts, changes, now);
    await saveStates(
      within,
      written.map((one) => stateOf(alarm.id, one))
    );
    if (gone.length > 0) await dropSeries(within, alarm.id, gone);
    if (drafts.length > 0) passes('recording');
  });
  if (drafts.length > 0) passes('recorded');
  return written.length + gone.length;
}

function stateOf(alarmId: number, { watched, after, changes, judgedUntil }: JudgedSeries): AlarmSeries {
  const since = changes.findLast(({ transition: { from, to } }) => from.state !== to.state)?.at ?? judgedUntil;
  return { ...watched, alarmId, state: after.state, severity: after.severity, since };
}

type Draft = { -readonly [Key in keyof IncidentDraft]: IncidentDraft[Key] } & { events: NewEvent[] };

/** Incidents as they are to be written, and the changes of state behind them. */
function drafted(
  series: readonly JudgedSeries[],
  gone: readonly string[],
  open: readonly KnownIncident[],
  unit: string,
  now: Instant
): { drafts: IncidentDraft[]; changes: NewChange[] } {
  const drafts: Draft[] = [];
  const changes: NewChange[] = [];
  const openOf = new Map(open.map((incident) => [incident.key, incident]));
  for (const one of series) {
    const { watched } = one;
    const known = openOf.get(watched.key);
    let draft: Draft | null = known ? draftOf(known, watched) : null;
    if (draft && (one.changes.length > 0 || peakChanged(draft, one))) drafts.push(draft);
    // The one that is open is always the last of the drafts.
    for (const { at, transition, evidence } of one.changes) {
      const { from, to, peak } = transition;
      // A series that is new is clear, or cannot be told, without ever having been otherwise.
      if (one.isNew && from.state === 'indeterminate' && to.state === 'clear' && to.severity === null) continue;
      const worst = Number.isFinite(peak?.value) ? (peak?.value ?? null) : null;
      const value = evidence.values.at(-1) ?? null;
      // By a clock that was set back, nothing ends before it began.
      const moment = draft === null ? at : (Math.max(at, draft.openedAt) as Instant);
      const event = (kind: NewEvent['kind'], severity: Severity): NewEvent => ({
        kind,
        at: moment,
        severity,
        value,
        peak: worst
      });
      let belongs: number | null = draft === null ? null : drafts.length - 1;
      if (to.severity !== null && draft === null) {
        draft = {
          id: null,
          watched,
          unit,
          openedAt: at,
          closedAt: null,
          severity: to.severity,
          gravest: to.severity,
          peak: worst,
          events: [event('opened', to.severity)]
        };
        belongs = drafts.push(draft) - 1;
      } else if (draft !== null && to.severity === null) {
        draft.closedAt = moment;
        draft.peak = worst ?? draft.peak;
        draft.events.push(event('closed', draft.gravest));
        draft = null;
      } else if (draft !== null && to.severity !== null) {
        if (to.severity !== draft.severity) draft.events.push(event('severity', to.severity));
        draft.severity = to.severity;
        draft.gravest = graver(draft.gravest, to.severity) ?? draft.gravest;
        draft.peak = worst ?? draft.peak;
      }
      changes.push({
        key: watched.key,
        draft: belongs,
        at,
        from: from.state,
        to: to.state,
        fromSeverity: from.severity,
        toSeverity: to.severity,
        evidence
      });
    }
    if (draft !== null && one.peak && Number.isFinite(one.peak.value)) draft.peak = one.peak.value;
  }
  for (const key of gone) {
    const known = openOf.get(key);
    if (!known) continue;
    const draft = draftOf(known, { key, labels: {}, seriesId: null, accountId: null });
    draft.closedAt = now;
    draft.events.push({ kind: 'ended', at: now, severity: known.gravest, value: null, peak: known.peak });
    drafts.push(draft);
  }
  return { drafts, changes };
}

const draftOf = (known: KnownIncident, watched: IncidentDraft['watched']): Draft => ({
  id: known.id,
  watched,
  unit: known.unit ?? '1',
  openedAt: known.openedAt,
  closedAt: known.closedAt,
  severity: known.severity,
  gravest: known.gravest,
  peak: known.peak,
  events: []
});

const peakChanged = (draft: Draft, { peak }: JudgedSeries): boolean => peak !== null && peak.value !== draft.peak;
