import { gravestLevel, watchedTitle } from '$lib/core/alarm';
import { outcomeText } from '$lib/core/incident';
import { groupBy } from '$lib/core/lists/group-by';
import { gravity, mostNamed, type GroupedIncident, type MessageContent } from '$lib/core/notify';
import type { Route, ThreadMessage } from '$lib/core/notify/route';
import { serviceByKey } from '$lib/core/services';
import { plainPick } from '$lib/core/signal';
import { changesNear } from './changes-near';
import type { Queryable } from '../db/pool';
import { eventsOfIncidents, type IncidentEvent } from '../incidents/events';
import { incidentsByIds, type Incident } from '../incidents/incidents';
import { raisersOf, type Raiser } from './raiser';
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
  const since = groupBy(news, ({ incidentId }) => incidentId);
  const all = (await incidentsByIds(within, wanted))
    .map((incident) => ({
      incident,
      severity: incident.severity,
      news: isNews ? newsOf(incident, since.get(incident.id) ?? []) : ('raised' as const)
    }))
    .toSorted((a, b) => gravity(b) - gravity(a));
  const raisers = await raisersOf(
    within,
    all.map(({ incident }) => incident)
  );
  // What is said of an incident is said by what raised it: those whose alarm is gone are counted only.
  const named = all
    .flatMap((one) => {
      const raiser = raisers.get(one.incident.id);
      return raiser === undefined ? [] : [{ ...one, raiser }];
    })
    .slice(0, mostNamed);
  const events = groupBy(
    await eventsOfIncidents(
      within,
      named.map(({ incident }) => incident.id)
    ),
    ({ incidentId }) => incidentId
  );
  const made: { incident: Incident; facts: GroupedIncident }[] = [];
  for (const { incident, raiser, news: said } of named)
    made.push({ incident, facts: await factsOf(within, incident, raiser, events.get(incident.id) ?? [], said) });
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
  const ids = new Set(named.map(({ incident }) => incident.id));
  const others = all.filter(({ incident }) => !ids.has(incident.id));
  return {
    content: {
      ...{ kind: 'grouped', why, together: togetherOf(route, made), incidents: made.map(({ facts }) => facts) },
      more: others.length,
      moreClear: others.filter((one) => one.news === 'cleared' || one.news === 'passed').length,
      moreClosed: others.filter((one) => one.news === 'dismissed').length
    },
    incidentIds: wanted
  };
}

/** What a message says of an incident, by what happened to it since the last one, in order. */
function newsOf(
  { clearAt, closedAt }: Incident,
  since: readonly Pick<ThreadMessage['news'][number], 'kind'>[]
): GroupedIncident['news'] {
  // One that was closed and opened again since is raised, whatever came before.
  if (since.at(-1)?.kind !== 'closed') return 'raised';
  if (clearAt === null && closedAt !== null) return 'dismissed';
  return since.some(({ kind }) => kind === 'opened') ? 'passed' : 'cleared';
}

async function factsOf(
  within: Queryable,
  incident: Incident,
  { name, runbook, alarm }: Raiser,
  events: readonly IncidentEvent[],
  news: GroupedIncident['news']
): Promise<GroupedIncident> {
  const closed = events.find(({ kind }) => kind === 'closed');
  const isOver = news !== 'raised';
  const deciding = isOver ? closed : events.findLast(({ kind }) => kind === 'opened' || kind === 'severity');
  const known = {
    news,
    incidentId: incident.id,
    alarm: name,
    ...{ severity: incident.severity, subject: incident.subject, account: incident.account, region: incident.region },
    openedAt: incident.openedAt,
    closedAt: isOver ? (closed?.at ?? incident.closedAt) : null,
    ...{ service: incident.service, runbook }
  };
  if (alarm === null)
    return {
      ...known,
      ...{ what: name, unit: '1', condition: null, value: null, peak: null, event: incident.eventText },
      ending: isOver ? endingOf(incident) : ''
    };
  const level = alarm.rule.levels.find(({ severity }) => severity === incident.severity) ?? gravestLevel(alarm.rule);
  const pick = alarm.signal ? plainPick(alarm.signal) : null;
  const metric = pick ? ((await metricByName(within, pick.metric)) ?? undefined) : undefined;
  return {
    ...known,
    what: watchedTitle(alarm, () => metric),
    unit: incident.unit ?? '1',
    condition: level.condition,
    event: '',
    ...{ value: deciding?.value ?? null, peak: incident.peak },
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
