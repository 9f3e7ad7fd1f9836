import { graver, type Severity } from '$lib/core/alarm';
import { signalsOf, type Board } from '$lib/core/board';
import { belonging } from '$lib/core/group';
import { asksFor, picksOf, plainPick, resourceKey } from '$lib/core/signal';
import type { Instant } from '$lib/core/time';
import { allAlarms, countStates } from '../alarms/alarms';
import { allGroups } from '../groups/groups';
import { groupLabelsOf } from '../groups/members';
import { allMetrics, type Metric } from '../intake/metrics';
import { labelNames } from '../intake/labels';
import { allResources } from '../intake/resources';
import { seriesOfResources } from '../intake/series';
import type { Bussola } from '../start';

/**
 * What is needed to show a board besides the numbers of its panels: the metrics they pick, and the alarms, groups and resources that panels without a signal
 * list.
 *
 * @param open incidents that are open
 */
export async function shownWith({ db, store }: Pick<Bussola, 'db' | 'store'>, board: Board, open: readonly OpenOn[]) {
  const [metrics, alarms] = await Promise.all([allMetrics(db), allAlarms(db)]);
  const picks = board.panels.flatMap(signalsOf).flatMap(picksOf);
  const used = metrics.filter(({ name }) => picks.some(({ metric }) => asksFor(metric, name)));
  const shows = (picture: string) => board.panels.some((panel) => panel.picture === picture);
  const [labels, counts, groups, reporting] = await Promise.all([
    labelNames(
      db,
      used.map(({ name }) => name)
    ),
    shows('alarms') ? countStates(db) : [],
    shows('status') ? groupsWith(db, open) : [],
    shows('silent') ? reportingResources({ db, store }) : []
  ]);
  const serviceOf = new Map(metrics.map(({ name, service }) => [name, service]));
  return {
    metrics: Object.fromEntries(used.map((metric) => [metric.name, withLabels(metric, labels)])),
    alarms: alarms.map(({ id, lastError, definition: { name, severity, signal, rule } }) => ({
      id,
      name,
      severity,
      service: picksOf(signal).flatMap(({ metric }) => serviceOf.get(metric) ?? [])[0] ?? null,
      metric: plainPick(signal)?.metric ?? null,
      threshold: rule.condition.threshold,
      error: lastError?.message ?? null,
      counts: Object.fromEntries(
        counts.filter(({ alarmId }) => alarmId === id).map(({ state, count }) => [state, count])
      )
    })),
    groups,
    reporting
  };
}
export type ShownWith = Awaited<ReturnType<typeof shownWith>>;

const withLabels = (metric: Metric, labels: ReadonlyMap<string, readonly string[]>) => ({
  ...metric,
  labels: labels.get(metric.name) ?? []
});

/** What is open, and on what. */
interface OpenOn {
  readonly severity: Severity;
  readonly account: string;
  readonly resource: string;
}

async function groupsWith(db: Bussola['db'], open: readonly OpenOn[]) {
  const [groups, resources] = await Promise.all([allGroups(db), allResources(db)]);
  return groups.map(({ id, name, rule }) => {
    const belongs = belonging(rule);
    const own = resources.filter((resource) => belongs(groupLabelsOf(resource)));
    const keys = new Set(own.map((resource) => resourceKey(resource.account, resource.name)));
    return {
      id,
      name,
      resources: own.length,
      worst: open
        .filter(({ account, resource }) => keys.has(resourceKey(account, resource)))
        .reduce<Severity | null>((worst, { severity }) => graver(worst, severity), null)
    };
  });
}

/** Every resource that is there, with the start of its newest sample. */
async function reportingResources({ db, store }: Pick<Bussola, 'db' | 'store'>) {
  const [resources, series] = await Promise.all([allResources(db), seriesOfResources(db)]);
  const newest = await store.samples.newest(series.map(({ id }) => id));
  const latest = new Map<number, number>();
  for (const [index, { resourceId }] of series.entries()) {
    const at = newest[index];
    if (at !== null && at !== undefined && at > (latest.get(resourceId) ?? 0)) latest.set(resourceId, at);
  }
  return resources.map(({ id, name, account, service }) => ({
    id,
    name,
    account,
    service,
    newest: (latest.get(id) ?? null) as Instant | null
  }));
}
