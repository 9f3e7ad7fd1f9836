import { gravestLevel, watchedTitle, type AlarmDefinition } from '$lib/core/alarm';
import { outcomeText } from '$lib/core/incident';
import { mostNamed, type GroupedIncident, type MessageContent } from '$lib/core/notify';
import type { Route, ThreadMessage } from '$lib/core/notify/route';
import { serviceByKey } from '$lib/core/services';
import { plainPick } from '$lib/core/signal';
import { changesNear } from './changes-near';
import { readableAlarm } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { eventsOfIncidents, type IncidentEvent } from '../incidents/events';
import { incidentsByIds, type Incident } from '../incidents/incidents';
import { metricByName } from '../inventory/metrics';

/** What a message says, and about which incidents. */
interface MadeContent {
  readonly content: MessageContent;
  readonly incidentIds: readonly number[];
}

/**
 * What a message of a thread says, and to whom it is sent; null when none of its incidents is stored any more, or their alarms cannot be read.
 *
 * @param notified the names of all who are notified by it
 * @param withChanges whether what changed before it is looked for
 */
export async function contentOf(
  within: Queryable,
  route: Pick<Route, 'group'>,
  message: ThreadMessage,
  notified: readonly string[],
  withChanges: boolean
): Promise<MadeContent | null> {
  const { why, news, open } = message;
  const isNews = why === 'news' || why === 'digest';
  const wanted = [...new Set(isNews && news.length > 0 ? news.map(({ incidentId }) => incidentId) : open)];
  const incidents = await incidentsByIds(within, wanted.slice(0, mostNamed));
  const events = await eventsOfIncidents(within, wanted.slice(0, mostNamed));
  const made: { incident: Incident; facts: GroupedIncident }[] = [];
  const alarms = new Map<number, AlarmDefinition | null>();
  for (const incident of incidents) {
    if (incident.alarmId === null) continue;
    if (!alarms.has(incident.alarmId))
      alarms.set(incident.alarmId, (await readableAlarm(within, incident.alarmId))?.definition ?? null);
    const alarm = alarms.get(incident.alarmId);
    if (!alarm) continue;
    const kinds = news.filter(({ incidentId }) => incidentId === incident.id).map(({ kind }) => kind);
    // One that was closed and opened again since is raised, whatever came before.
    const isClosed = isNews && kinds.at(-1) === 'closed';
    const said = isClosed ? (kinds.includes('opened') ? 'passed' : 'cleared') : 'raised';
    const own = events.filter(({ incidentId }) => incidentId === incident.id);
    const isDismissed = isClosed && incident.clearAt === null && incident.closedAt !== null;
    made.push({ incident, facts: await factsOf(within, incident, alarm, own, isDismissed ? 'dismissed' : said) });
  }
  const [first] = made;
  if (first === undefined) return null;
  if (wanted.length === 1)
    return {
      content: {
        ...{ kind: 'incident', why, ...first.facts, notified: [...notified] },
        nearby:
          withChanges && first.facts.news === 'raised'
            ? (await changesNear(within, first.incident)).map(({ at, text }) => ({ at, text }))
            : []
      },
      incidentIds: [first.incident.id]
    };
  return {
    content: {
      ...{ kind: 'grouped', why, together: togetherOf(route, made), more: wanted.length - made.length },
      incidents: made.map(({ facts }) => facts)
    },
    incidentIds: wanted
  };
}

async function factsOf(
  within: Queryable,
  incident: Incident,
  alarm: AlarmDefinition,
  events: readonly IncidentEvent[],
  news: GroupedIncident['news']
): Promise<GroupedIncident> {
  const level = alarm.rule.levels.find(({ severity }) => severity === incident.severity) ?? gravestLevel(alarm.rule);
  const pick = alarm.signal ? plainPick(alarm.signal) : null;
  const metric = pick ? ((await metricByName(within, pick.metric)) ?? undefined) : undefined;
  const closed = events.find(({ kind }) => kind === 'closed');
  const isOver = news !== 'raised';
  const deciding = isOver ? closed : events.findLast(({ kind }) => kind === 'opened' || kind === 'severity');
  return {
    news,
    incidentId: incident.id,
    alarm: alarm.name,
    ...{ severity: incident.severity, subject: incident.subject, account: incident.account, region: incident.region },
    what: watchedTitle(alarm, () => metric),
    unit: incident.unit ?? '1',
    condition: level.condition,
    openedAt: incident.openedAt,
    closedAt: isOver ? (closed?.at ?? incident.closedAt) : null,
    value: deciding?.value ?? null,
    peak: incident.peak,
    ...{ service: incident.service, runbook: alarm.runbook },
    ending: news === 'dismissed' ? endingOf(incident) : ''
  };
}

const endingOf = ({ outcome }: Incident): string => (outcome === null ? '' : `${outcomeText(outcome)} (${outcome.by})`);

/** What the incidents of a message have in common, in words. */
function togetherOf(
  { group }: Pick<Route, 'group'>,
  made: readonly { incident: Incident; facts: GroupedIncident }[]
): string {
  const [first] = made;
  if (first === undefined) return '';
  switch (group.by) {
    case 'incident':
    case 'related':
    case 'route':
      return '';
    case 'resource':
      return first.incident.subject;
    case 'alarm':
      return first.facts.alarm;
    case 'service':
      return first.incident.service === '' ? '' : serviceByKey(first.incident.service).title;
    case 'region':
    case 'account':
      return first.incident[group.by];
    default:
      throw new RangeError(`togetherOf: no grouping "${String(group.by satisfies never)}"`);
  }
}
