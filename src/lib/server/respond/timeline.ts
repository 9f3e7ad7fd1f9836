import { comparedText, gravestLevel, type Severity } from '$lib/core/alarm';
import { inOrder, type TimelineEntry } from '$lib/core/incident';
import { shortKindWords } from '$lib/core/notify';
import { quantityText } from '$lib/core/units';
import { readableAlarm } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { eventsOfIncident, type IncidentEvent } from '../incidents/events';
import type { Incident } from '../incidents/incidents';
import { notesOf } from '../incidents/notes';
import { messagesOfIncident, type ToldMessage } from '../notify/outbox-lists';
import { listRuns, type StoredRun } from '../responses/runs';
import { isFailure, runText } from '$lib/core/response';
import { changesNear } from './changes-near';

/** Changes before an incident that its timeline has. */
const mostChanges = 12;
/** What was done about it that its timeline has. */
const mostRuns = 100;

/** What happened before an incident and since, in order: what changed near it, what was decided, who was notified, what people did and wrote. */
export async function timelineOf(db: Queryable, incident: Incident): Promise<TimelineEntry[]> {
  const [alarm, events, notes, messages, changes, runs] = await Promise.all([
    incident.alarmId === null ? null : readableAlarm(db, incident.alarmId),
    eventsOfIncident(db, incident.id),
    notesOf(db, incident.id),
    messagesOfIncident(db, incident.id),
    changesNear(db, incident, mostChanges),
    listRuns(db, { incidentId: incident.id }, mostRuns)
  ]);
  const plain = { severity: null, isFault: false, aside: '' };
  const unit = incident.unit ?? '1';
  /** A value in the words of the level that it was judged by: how long there was no sample, how many parts hold. */
  const valueText = (value: number, severity: Severity | null): string => {
    if (alarm === null) return quantityText(value, unit);
    const { rule } = alarm.definition;
    const level = rule.levels.find((one) => one.severity === severity) ?? gravestLevel(rule);
    return comparedText(level.condition, value, unit);
  };
  return inOrder([
    ...changes.map(({ at, kind, text }): TimelineEntry => ({ ...plain, at, kind, text })),
    ...(events.length === 0 ? judgedAfterwards(incident) : events.flatMap((event) => entryOf(event, valueText))),
    ...messages.map(messageEntry),
    ...runs.map(runEntry),
    ...notes.map(({ at, by, text }): TimelineEntry => ({ ...plain, at, kind: 'note', text, aside: by }))
  ]);
}

/** Of an incident that was found in history, nothing but its beginning and end is recorded. */
function judgedAfterwards({ openedAt, closedAt, severity }: Incident): TimelineEntry[] {
  const plain = { kind: 'state', aside: 'judged afterwards', isFault: false } as const;
  return [
    { ...plain, at: openedAt, text: `Raised, ${severity}.`, severity },
    ...(closedAt === null ? [] : [{ ...plain, at: closedAt, text: 'Clear again.', severity: null }])
  ];
}

function entryOf(
  { kind, at, recordedAt, severity, value, by, text: written }: IncidentEvent,
  valueText: (value: number, severity: Severity | null) => string
): TimelineEntry[] {
  const aside = value === null ? '' : valueText(value, severity);
  const state = (text: string, as: TimelineEntry['severity']): TimelineEntry[] => [
    { at, kind: 'state', text, aside, severity: as, isFault: false }
  ];
  const person = (text: string): TimelineEntry[] => [
    { at, kind: 'person', text, aside: by ?? '', severity: null, isFault: false }
  ];
  const held = (text: string, isFault = false): TimelineEntry[] => [
    { at: recordedAt, kind: 'held', text, aside: by ?? '', severity: null, isFault }
  ];
  switch (kind) {
    case 'opened':
      return state(`Raised, ${severity ?? ''}.`, severity);
    case 'severity':
      return state(`Changed to ${severity ?? ''}.`, severity);
    case 'closed':
      return state('Clear again.', null);
    case 'ended':
      return state('Ended: it is no longer watched.', null);
    case 'acknowledged':
      return person('Acknowledged.');
    case 'unacknowledged':
      return person('Took the acknowledgement back.');
    case 'dismissed':
      return person(`Closed while it was raised: ${written ?? ''}`);
    case 'outcome':
      return person(`How it ended: ${written ?? ''}`);
    case 'reopened':
      return by === null ? held('Open again: it is graver than when it was closed.') : person('Opened again.');
    case 'shelved':
      return held('Shelved: messages are held back.');
    case 'unshelved':
      return held('No longer shelved.');
    case 'rerouted':
      return held('Its route was removed: the next route that takes it has it.');
    case 'unreached':
      return held('Nobody could be notified.', true);
    case 'unjudged':
      return [];
    default:
      throw new RangeError(`entryOf: no event "${String(kind satisfies never)}"`);
  }
}

/** What was done about it, at the time at which it was sent, or held back. */
const runEntry = (run: StoredRun): TimelineEntry => ({
  at: run.sentAt ?? run.endedAt ?? run.createdAt,
  kind: 'response',
  text: `${run.resource === '' ? '' : `${run.resource}: `}${runText(run)}`,
  aside: run.by,
  severity: null,
  isFault: isFailure(run)
});

function messageEntry({
  kind,
  channel,
  channelKind,
  state,
  lastError,
  createdAt,
  sentAt,
  person
}: ToldMessage): TimelineEntry {
  const by = channelKind === null ? '' : ` by ${shortKindWords[channelKind]}`;
  const what =
    kind === 'cleared'
      ? ' that it is clear'
      : kind === 'passed'
        ? ' that it was raised and is clear'
        : kind === 'dismissed'
          ? ' that it was closed'
          : '';
  const took = sentAt === null ? '' : `delivered in ${Math.max(0, Math.round((sentAt - createdAt) / 1000))} s`;
  const isFault = state === 'failed' || (state === 'queued' && lastError !== null);
  return {
    at: createdAt,
    kind: 'message',
    text: `${person ?? channel} notified${by}${what}.`,
    aside: isFault
      ? (lastError ?? 'failed')
      : state === 'sent'
        ? took
        : state === 'superseded'
          ? 'not needed any more'
          : state,
    severity: null,
    isFault
  };
}
