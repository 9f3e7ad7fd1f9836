import { compareWithPast, farthest, unusualText, type UnusualMetric, type UnusualThen } from '$lib/core/incident';
import { Refusal } from '$lib/core/problem/problem';
import { plainSignal, usualStatistic, type Signal, type Worked } from '$lib/core/signal';
import { after, before, day, hour, instant, minute, range, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Incident } from '../incidents/incidents';
import { allMetrics, type Metric } from '../inventory/metrics';
import { neighboursOf, resourceNamed, type Resource } from '../inventory/resources';
import { metricsOfResources } from '../inventory/series';
import { resolveSignal, stockFor, workOf } from '../query/signals/resolve';
import type { AskedWork, SignalWork } from '../query/signals/work';

const step = times(5, minute);
/** Days whose same hours are what is usual, and how much before and after that time of day counts. */
const [daysCompared, around] = [7, hour];
/** From how long before it was raised, until how long after, a metric is looked at. */
const [lead, tail] = [times(10, minute), times(20, minute)];
/** What is drawn before it. */
const shownBefore = times(2, hour);
/** Resources near it that are looked at, metrics, and lines that are listed. */
const [mostNeighbours, mostMetrics, mostListed] = [12, 60, 6];
/** Nearer to usual than this many robust standard deviations is usual. */
const leastDistance = 3;

interface Surroundings {
  readonly db: Queryable;
  readonly evaluator: { evaluateAll(asked: readonly AskedWork[]): Promise<Worked[]> };
}

/**
 * The metrics of an incident's resource and of its neighbours (the same account and region, those of its service first) that were farthest from what they are at the same time of day, the farthest first; what its alarm watches is left out.
 */
export async function unusualThen(
  { db, evaluator }: Surroundings,
  incident: Incident,
  now: Instant
): Promise<UnusualThen> {
  const nothing = { unusual: [], compared: 0, tooYoung: 0 };
  const own = incident.resource === '' ? null : await resourceNamed(db, incident.account, incident.resource);
  if (own === null) return nothing;
  const resources = [own, ...(await neighboursOf(db, own, mostNeighbours))];
  const described = new Map((await allMetrics(db)).map((metric) => [metric.name, metric]));
  const names = await metricsOfResources(
    db,
    own.accountId,
    resources.map(({ id }) => id)
  );
  const until = Math.min(now, after(incident.openedAt, tail)) as Instant;
  const span = range(before(before(incident.openedAt, times(daysCompared, day)), around), until);
  const found: UnusualMetric[] = [];
  let [compared, tooYoung] = [0, 0];
  const metrics = names.slice(0, mostMetrics).flatMap((name) => described.get(name) ?? []);
  const works = await worksOf(db, metrics, own, resources, now);
  const worked = await evaluator.evaluateAll(works.map(({ work }) => ({ work, span, step })));
  for (const [index, { metric }] of works.entries())
    for (const course of coursesOf(worked[index], metric, resources)) {
      if (course.resource.id === own.id && metric.name === incident.metric) continue;
      const verdict = compareWithPast(splitAt(course, incident.openedAt, before(until, metric.delayMs)));
      if (verdict.kind === 'young') tooYoung++;
      else compared++;
      if (verdict.kind === 'young' || (verdict.kind === 'known' && Math.abs(verdict.distance) < leastDistance))
        continue;
      const { values, start } = course;
      const first = Math.max(0, Math.floor((incident.openedAt - shownBefore - start) / step));
      found.push({
        ...{ metric: metric.name, title: course.title, unit: course.unit, usual: verdict.usual },
        ...(verdict.kind === 'silent'
          ? { value: null, distance: -farthest, text: 'no data' }
          : { value: verdict.value, distance: verdict.distance, text: unusualText(verdict) }),
        ...{ resource: course.resource.name, resourceId: course.resource.id },
        values: values.slice(first).map((value) => (Number.isFinite(value) ? value : null))
      });
    }
  // Of what is as far from usual, what is on the resource itself comes first.
  const rank = (one: UnusualMetric): number => Math.abs(one.distance) * (one.resourceId === own.id ? 1.5 : 1);
  return { unusual: found.sort((a, b) => rank(b) - rank(a)).slice(0, mostListed), compared, tooYoung };
}

/** What is to be worked out of each metric; those whose points cannot be worked out in the usual way are left out. */
async function worksOf(
  db: Queryable,
  metrics: readonly Metric[],
  own: Resource,
  resources: readonly Resource[],
  now: Instant
): Promise<{ readonly metric: Metric; readonly work: SignalWork }[]> {
  const signals = metrics.map((metric) => ({ metric, signal: signalOf(metric, own, resources) }));
  const stock = await stockFor(
    db,
    signals.map(({ signal }) => signal)
  );
  const works: { metric: Metric; work: SignalWork }[] = [];
  for (const { metric, signal } of signals)
    try {
      works.push({ metric, work: workOf(await resolveSignal(db, signal, stock), now) });
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
    }
  return works;
}

interface MetricCourse {
  readonly resource: Resource;
  readonly title: string;
  readonly unit: string;
  readonly start: number;
  readonly values: readonly number[];
}

/** A metric of some resources, each series for itself. */
const signalOf = ({ name, kind }: Metric, { account }: Resource, resources: readonly Resource[]): Signal =>
  plainSignal({
    metric: name,
    statistic: usualStatistic(kind),
    where: [
      { label: 'account', is: [account] },
      { label: 'resource', is: resources.map((one) => one.name) }
    ],
    step: 'PT5M'
  });

/** What was worked out of a metric, one course for each series. */
function coursesOf(worked: Worked | undefined, { title }: Metric, resources: readonly Resource[]): MetricCourse[] {
  if (worked?.kind !== 'worked') return [];
  const byName = new Map(resources.map((resource) => [resource.name, resource]));
  return worked.rows.flatMap(({ unit, columns }) =>
    columns.flatMap(({ labels, values }) => {
      const resource = byName.get(labels['resource'] ?? '');
      if (resource === undefined) return [];
      const more = Object.entries(labels).flatMap(([label, value]) => (whereabouts.has(label) ? [] : [value]));
      return {
        ...{ resource, unit, start: worked.grid.start, values: Array.from(values) },
        title: more.length === 0 ? title : `${title}, ${more.join(', ')}`
      };
    })
  );
}

const whereabouts = new Set(['account', 'provider', 'region', 'service', 'type', 'resource']);

/** What a course is compared with, the same hours of the days before, and what it was then. */
function splitAt(
  { start, values }: MetricCourse,
  openedAt: Instant,
  until: Instant
): { readonly past: number[]; readonly then: number[] } {
  const between = (from: number, to: number): number[] =>
    values.slice(Math.max(0, Math.ceil((from - start) / step)), Math.max(0, Math.floor((to - start) / step)));
  const past: number[] = [];
  for (let ago = daysCompared; ago > 0; ago--) {
    const same = before(openedAt, times(ago, day));
    past.push(...between(same - around, same + around));
  }
  return { past, then: between(instant(openedAt - lead), until) };
}
