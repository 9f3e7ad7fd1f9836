import { alarmDifferences } from '$lib/core/alarm';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allMetrics } from '../inventory/metrics';
import { allRoutes } from '../routing/routes';
import { alarmById, allAlarms } from './alarms';
import { noSuchAlarm } from './save-alarm';
import { versionsOfAlarm } from './versions';

/** One definition that an alarm had, with what was different from the one before. */
export interface AlarmChangeTold {
  readonly version: number;
  readonly at: Instant;
  readonly by: string;
  readonly differences: readonly string[];
}

/** The definitions that an alarm had, newest first. @throws Refusal `not-found` */
export async function alarmHistory(db: Queryable, id: number): Promise<AlarmChangeTold[]> {
  const [alarm, versions, metrics, routes, alarms] = await Promise.all([
    alarmById(db, id),
    versionsOfAlarm(db, id),
    allMetrics(db),
    allRoutes(db),
    allAlarms(db)
  ]);
  if (alarm === null) throw noSuchAlarm();
  const words = {
    wordsOf: (name: string) => metrics.find((metric) => metric.name === name),
    routeOf: (of: number) => routes.find(({ id }) => id === of)?.route.name ?? 'a route that was removed',
    alarmOf: (of: number) => alarms.find((one) => one.id === of)?.definition.name ?? 'an alarm that was removed'
  };
  return versions.map(({ version, at, by, definition }, index) => {
    const before = versions[index + 1]?.definition;
    const made = version === 1 ? ['It was made.'] : [];
    return { version, at, by, differences: before ? alarmDifferences(before, definition, words) : made };
  });
}
