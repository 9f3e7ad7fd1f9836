import {
  alarmSentence,
  alarmViews,
  gravestLevel,
  graver,
  isInView,
  noiseOf,
  serviceOfAlarm,
  servicesOfAlarm,
  type ListedAlarm,
  type PastPeriod,
  type Severity
} from '$lib/core/alarm';
import { groupBy } from '$lib/core/lists/group-by';
import type { Labels } from '$lib/core/signal';
import { before, day, range, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { DarkAccount } from '../intake/own/dark-accounts';
import { allMetrics } from '../inventory/metrics';
import { reachOf } from '$lib/core/notify/route';
import { routingChoices } from '../routing/routing-choices';
import { allAlarms } from './alarms';

/** The time whose noise is counted. */
export const noiseSpan = times(30, day);
/** Stretches of a small chart. */
const mostStrip = 80;

interface SeriesRow {
  readonly alarmId: number;
  readonly state: string;
  readonly severity: Severity | null;
  readonly count: number;
  readonly oldest: Instant;
  readonly newest: Instant;
}

/**
 * Every alarm with how it is and how it behaved, raised ones first.
 *
 * @param dark accounts that send nothing
 */
export async function listAlarms(db: Queryable, now: Instant, dark: readonly DarkAccount[]): Promise<ListedAlarm[]> {
  const span = range(before(now, noiseSpan), now);
  const [alarms, routing, metrics, states, periods, inDark] = await Promise.all([
    allAlarms(db),
    routingChoices(db),
    allMetrics(db),
    db.rows<SeriesRow>(
      `select alarm_id as "alarmId", state, severity, count(*)::integer as count, min(since) as oldest, max(since) as newest
       from alarm_series
       group by alarm_id, state, severity`
    ),
    db.rows<PastPeriod & { alarmId: number }>(
      `select alarm_id as "alarmId", key, opened_at as "from", closed_at as "to", gravest as severity, acknowledged_at is not null as "isAcknowledged"
       from incidents
       where alarm_id is not null and opened_at < $2 and (closed_at is null or closed_at >= $1)
       order by opened_at desc
       limit 50000`,
      [span.from, span.to]
    ),
    db.rows<{ alarmId: number; accountId: number }>(
      'select distinct alarm_id as "alarmId", account_id as "accountId" from alarm_series where account_id = any($1::integer[])',
      [dark.map(({ id }) => id)]
    )
  ]);
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const periodsOf = groupBy(periods, ({ alarmId }) => alarmId);
  const statesOf = groupBy(states, ({ alarmId }) => alarmId);
  const rows = alarms.map(({ id, definition, createdAt, changedAt, changedBy, lastError }): ListedAlarm => {
    const own = statesOf.get(id) ?? [];
    const count = (state: string) => own.reduce((sum, row) => (row.state === state ? sum + row.count : sum), 0);
    const raised = own.filter(({ state }) => state === 'raised');
    const past = periodsOf.get(id) ?? [];
    const noise = noiseOf(past, span);
    const { enabled } = definition;
    const severity = gravestLevel(definition.rule).severity;
    const reach = reachOf({ ...definition, severity, service: serviceOfAlarm(definition, metrics) }, routing);
    const notifies = reach !== null && reach.confirmed > 0;
    const first = past.reduce((least, { from }) => Math.min(least, from), createdAt as number);
    const viewed = { enabled, raised: count('raised'), notifies, watchedFor: now - first, noise };
    return {
      ...{ id, name: definition.name, enabled, notifies, lastError, changedAt, changedBy },
      severity,
      raisedAs: raised.reduce<Severity | null>(
        (most, { severity }) => (severity ? graver(most, severity) : most),
        null
      ),
      sentence: alarmSentence(definition, wordsOf),
      services: servicesOfAlarm(definition, metrics),
      owner: definition.owner,
      dark: dark
        .filter((account) => inDark.some(({ alarmId, accountId }) => alarmId === id && accountId === account.id))
        .map(({ name }) => name),
      labels: definition.labels,
      ...{ raised: count('raised'), indeterminate: count('indeterminate'), clear: count('clear') },
      since: sinceOf(raised.length > 0 ? raised.map(({ oldest }) => oldest) : [], own),
      noise: { ...noise, strip: noise.strip.slice(-mostStrip) },
      views: alarmViews.filter((view) => isInView(view, viewed))
    };
  });
  return rows.sort((a, b) => b.raised - a.raised || b.indeterminate - a.indeterminate || a.name.localeCompare(b.name));
}

function sinceOf(raised: readonly Instant[], all: readonly SeriesRow[]): Instant | null {
  if (raised.length > 0) return Math.min(...raised) as Instant;
  return all.length > 0 ? (Math.max(...all.map(({ newest }) => newest)) as Instant) : null;
}

/** Resources of a service that no alarm watches. */
export interface Unwatched {
  readonly service: string;
  readonly count: number;
  /** The first of them by name. */
  readonly first: readonly { readonly id: number; readonly name: string; readonly account: string }[];
}

/** Resources that a page names of each service. */
const mostNamed = 12;

/** Resources that are there and that no alarm watches, by service. */
export async function unwatchedResources(db: Queryable): Promise<Unwatched[]> {
  const [resources, watched] = await Promise.all([
    db.rows<{ id: number; name: string; account: string; service: string }>(
      `select resources.id, resources.name, accounts.name as account, resources.service
       from resources
       join accounts on accounts.id = resources.account_id
       where ended_at is null
       order by resources.service, resources.name`
    ),
    db.rows<{ resourceId: number | null; labels: Labels }>(
      `select series.resource_id as "resourceId", alarm_series.labels
       from alarm_series
       left join series on series.account_id = alarm_series.account_id and series.id = alarm_series.series_id`
    )
  ]);
  const ids = new Set(watched.map(({ resourceId }) => resourceId));
  const names = new Set(
    watched.flatMap(({ labels: { resource, account } }) =>
      resource === undefined ? [] : [`${account ?? ''} ${resource}`]
    )
  );
  const isWatched = ({ id, name, account }: (typeof resources)[number]) =>
    ids.has(id) || names.has(`${account} ${name}`) || names.has(` ${name}`);
  const groups = groupBy(
    resources.filter((one) => !isWatched(one)),
    ({ service }) => service
  );
  return [...groups].map(([service, all]) => ({
    service,
    count: all.length,
    first: all.slice(0, mostNamed).map(({ id, name, account }) => ({ id, name, account }))
  }));
}
