import { severities, severityBalls, graver, type Severity } from '$lib/core/alarm';
import { periodName } from '$lib/core/objective';
import { isRefused } from '$lib/core/problem/problem';
import type { Signal } from '$lib/core/signal';
import { serviceByKey } from '$lib/core/services';
import { mostListed, periodBefore, type Summary, type SummaryKind } from '$lib/core/summary';
import {
  before,
  dateAfter,
  dateAt,
  day,
  daysBetween,
  firstInstantAt,
  range,
  textFromInstant,
  times,
  type Instant,
  type Range
} from '$lib/core/time';
import { countOfOpen, incidentCounts, longestIncidents, type IncidentCount } from '../incidents/counted';
import { ownProvider } from '../inventory/accounts';
import { allResources } from '../inventory/resources';
import { marksIn } from '../marks/marks';
import type { CostReader } from '../cost/cost-view';
import { objectives } from '../objective/objectives';
import { objectivesAt, type ObjectiveReader } from '../objective/objective-view';
import { answerQuery } from '../query/query';
import { summaryCost } from './summary-cost';

/** What putting a summary together needs. */
export type SummaryReader = CostReader & ObjectiveReader & Parameters<typeof answerQuery>[0];

/** Marks that are listed at most. */
const mostMarks = 40;

/**
 * Puts together what a week or month came to; of one that is not over, what it came to so far.
 *
 * @example await summaryOf(bussola, 'week', lastWhole('week', clock.now(), 'Europe/Rome'), 'Europe/Rome')
 */
export async function summaryOf(
  reader: SummaryReader,
  kind: SummaryKind,
  period: Range,
  zone: string
): Promise<Summary> {
  const { db, clock } = reader;
  const now = clock.now();
  const until = Math.min(period.to, Math.max(period.from, now)) as Instant;
  const shown = range(period.from, until);
  const earlier = periodBefore(kind, period, zone);
  const [counts, past, open, longest, resources, promises, cost, marks, sizes] = await Promise.all([
    incidentCounts(db, edgesOf(period, zone)),
    incidentCounts(db, edgesOf(upTo(earlier, shown, period), zone)),
    countOfOpen(db, until),
    longestIncidents(db, shown, mostListed),
    allResources(db),
    promisesOf(reader, until),
    summaryCost(reader, period, earlier, zone),
    marksIn(db, shown),
    sizesOf(reader, shown, zone)
  ]);
  const own = marks.filter(({ from, board }) => from >= shown.from && board === null);
  return {
    ...{ kind, from: period.from, to: period.to, zone, madeAt: now },
    incidents: { ...incidentsOf(counts, past), open, days: daysOf(counts, period, zone) },
    services: servicesOf(counts, past, resources),
    ...{ longest, promises, cost, sizes },
    changed: own.slice(0, mostMarks).map(({ from, text, service }) => ({ at: from, text, service })),
    moreChanged: Math.max(0, own.length - mostMarks)
  };
}

/** Where the days of a period begin, and where the last ends. */
function edgesOf({ from, to }: Range, zone: string): Instant[] {
  const first = dateAt(from, zone);
  const days = Math.max(1, daysBetween(first, dateAt((to - 1) as Instant, zone)) + 1);
  const edges = Array.from({ length: days }, (_, index) => firstInstantAt(dateAfter(first, index), '00:00', zone));
  return [...edges, to];
}

/** As much of the period before as there is of one that is not over. */
const upTo = (earlier: Range, shown: Range, period: Range): Range =>
  shown.to === period.to
    ? earlier
    : range(earlier.from, Math.min(earlier.to, earlier.from + Math.max(1, shown.to - shown.from)) as Instant);

const sumOf = (counts: readonly IncidentCount[]): number => counts.reduce((sum, { count }) => sum + count, 0);

function incidentsOf(counts: readonly IncidentCount[], past: readonly IncidentCount[]) {
  const of = (some: readonly IncidentCount[], wanted: Severity) => sumOf(some.filter((one) => one.severity === wanted));
  return {
    ...{ total: sumOf(counts), earlier: sumOf(past) },
    bySeverity: [...severities]
      .reverse()
      .map((severity) => ({ severity, count: of(counts, severity), earlier: of(past, severity) }))
  };
}

const daysOf = (counts: readonly IncidentCount[], { from, to }: Range, zone: string) =>
  edgesOf({ from, to }, zone)
    .slice(0, -1)
    .map((start, day) => ({
      date: dateAt(start, zone),
      counts: severities.map((severity) => sumOf(counts.filter((one) => one.day === day && one.severity === severity)))
    }));

function servicesOf(
  counts: readonly IncidentCount[],
  past: readonly IncidentCount[],
  resources: readonly { readonly service: string; readonly provider: string; readonly endedAt: Instant | null }[]
): Summary['services'] {
  // What Bussola measures itself is nothing that anybody else knows of.
  const there = resources.filter(({ endedAt, provider }) => endedAt === null && provider !== ownProvider);
  const names = new Set([...counts.map(({ service }) => service), ...there.map(({ service }) => service)]);
  names.delete('');
  return [...names]
    .map((service) => {
      const own = counts.filter((one) => one.service === service);
      return {
        ...{ service, title: serviceByKey(service).title, count: sumOf(own) },
        earlier: sumOf(past.filter((one) => one.service === service)),
        worst: own.reduce<Severity | null>((worst, { severity }) => graver(worst, severity), null),
        resources: there.filter((one) => one.service === service).length
      };
    })
    .sort((a, b) => balls(b.worst) - balls(a.worst) || b.count - a.count || a.title.localeCompare(b.title, 'en'));
}
const balls = (severity: Severity | null): number => (severity === null ? 0 : severityBalls(severity));

async function promisesOf(reader: SummaryReader, at: Instant): Promise<Summary['promises']> {
  const all = await objectives.all(reader.db);
  const found = await objectivesAt(reader, all, at);
  return all.map(({ id, value: { name, targetPercent, period } }, index) => ({
    ...{ id, name, targetPercent, over: periodName(period) },
    ...{ good: found[index]?.share ?? null, left: found[index]?.left ?? null },
    problem: found[index]?.problem?.message ?? ''
  }));
}

/** What is stored, and how much: the newest there is of the last days. */
const sized: readonly { readonly what: string; readonly metric: string; readonly unit: string }[] = [
  { what: 'Stored objects', metric: 'object-store.objects', unit: '1' },
  { what: 'Size of stored objects', metric: 'object-store.size', unit: 'By' }
];
/** Such numbers come once a day or less often. */
const sizeDays = 3;

async function sizesOf(reader: SummaryReader, { from, to }: Range, zone: string): Promise<Summary['sizes']> {
  const found: Summary['sizes'] = [];
  for (const { what, metric, unit } of sized) {
    const added = { name: 'a', metric, where: [], statistic: 'last', combine: { statistic: 'sum', by: [] } } as const;
    const signal: Signal = {
      version: 2,
      rows: [{ ...added, where: [], combine: { statistic: 'sum', by: [] } }],
      step: 'P1D',
      unit
    };
    try {
      const value = await newestOf(reader, signal, to, zone);
      if (value !== null) found.push({ what, unit, value, earlier: await newestOf(reader, signal, from, zone) });
    } catch (error) {
      // Nobody collects it: there is nothing to be said of it.
      if (!isRefused(error, 'unknown-metric')) throw error;
    }
  }
  return found;
}

async function newestOf(reader: SummaryReader, signal: Signal, to: Instant, zone: string): Promise<number | null> {
  const bytes = await answerQuery(
    reader,
    {
      ...{ signal, zone, values: 'numbers', times: 'epoch' },
      ...{ from: textFromInstant(before(to, times(sizeDays, day))), to: textFromInstant(to) }
    },
    { name: 'summary' }
  );
  const { series } = JSON.parse(Buffer.from(bytes).toString('utf8')) as { series: { values: (number | null)[] }[] };
  return series[0]?.values.findLast((value) => value !== null) ?? null;
}
