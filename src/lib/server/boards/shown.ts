import { drawnLimits, graver, gravestLevel, signalsOfAlarm, type Severity } from '$lib/core/alarm';
import { seenState, signalsOf, type Board, type SeenResource } from '$lib/core/board';
import { belonging } from '$lib/core/group';
import { asksFor, picksOf, plainPick, resourceKey } from '$lib/core/signal';
import { before, hour, times, type Clock } from '$lib/core/time';
import { allAlarms, countStates } from '../alarms/alarms';
import { allGroups } from '../query/groups/groups';
import { groupLabelsOf } from '../query/groups/members';
import { allMetrics, type Metric } from '../inventory/metrics';
import { countOpen } from '../incidents/open';
import { labelNames } from '../inventory/labels';
import { allResources, resourcesSeenSince } from '../inventory/resources';
import { reportingResources } from '../reachability/reporting-resources';
import type { Database } from '../db/pool';
import type { StoreClient } from '../store/open-store';

/** What showing a board needs. */
interface ShownContext {
  readonly db: Database;
  readonly store: StoreClient;
  readonly clock: Clock;
}

/**
 * What is needed to show a board besides the numbers of its panels: the metrics they pick, and the alarms, groups and resources that panels without a signal
 * list.
 */
export async function shownWith({ db, store, clock }: ShownContext, board: Board) {
  const [metrics, alarms] = await Promise.all([allMetrics(db), allAlarms(db)]);
  const picks = board.panels.flatMap(signalsOf).flatMap(picksOf);
  const used = metrics.filter(({ name }) => picks.some(({ metric }) => asksFor(metric, name)));
  const shows = (picture: string) => board.panels.some((panel) => panel.picture === picture);
  const hours = Math.max(0, ...board.panels.map((panel) => (panel.picture === 'resources' ? panel.hours : 0)));
  const [labels, counts, groups, reporting, seen] = await Promise.all([
    labelNames(
      db,
      used.map(({ name }) => name)
    ),
    shows('alarms') ? countStates(db) : [],
    shows('status') ? groupsWith(db) : [],
    shows('silent') ? allResources(db).then((all) => reportingResources({ db, store }, all)) : [],
    hours > 0 ? seenResources({ db, store, clock }, hours) : []
  ]);
  const serviceOf = new Map(metrics.map(({ name, service }) => [name, service]));
  return {
    metrics: Object.fromEntries(used.map((metric) => [metric.name, withLabels(metric, labels)])),
    alarms: alarms.map(({ id, lastError, definition }) => ({
      id,
      name: definition.name,
      severity: gravestLevel(definition.rule).severity,
      service:
        signalsOfAlarm(definition)
          .flatMap(picksOf)
          .flatMap(({ metric }) => serviceOf.get(metric) ?? [])[0] ?? null,
      metric: (definition.signal && plainPick(definition.signal)?.metric) ?? null,
      limits: drawnLimits(definition.rule),
      error: lastError?.message ?? null,
      counts: Object.fromEntries(
        counts.filter(({ alarmId }) => alarmId === id).map(({ state, count }) => [state, count])
      )
    })),
    groups,
    reporting,
    seen
  };
}
const withLabels = (metric: Metric, labels: ReadonlyMap<string, readonly string[]>) => ({
  ...metric,
  labels: labels.get(metric.name) ?? []
});

/** All groups, with the gravest severity of what is open on their resources. */
async function groupsWith(db: Database) {
  const [groups, resources, open] = await Promise.all([allGroups(db), allResources(db), countOpen(db)]);
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

/** Resources seen in the last hours, with how each stands. */
async function seenResources({ db, store, clock }: ShownContext, hours: number) {
  const now = clock.now();
  const resources = await resourcesSeenSince(db, before(now, times(hours, hour)));
  const reports = await reportingResources(
    { db, store },
    resources.filter(({ endedAt }) => endedAt === null)
  );
  const dueById = new Map(reports.map(({ id, dueBy }) => [id, dueBy]));
  return resources.map(({ id, name, account, service, type, firstSeenAt, lastSeenAt, endedAt }): SeenResource => ({
    id,
    name,
    account,
    service,
    type,
    firstSeenAt,
    lastSeenAt,
    state: seenState({ firstSeenAt, endedAt, dueBy: dueById.get(id) ?? null }, now)
  }));
}
