/** What one grid cell can be reduced to. */
export const statistics = ['avg', 'min', 'max', 'sum', 'count', 'last'] as const;
export type Statistic = (typeof statistics)[number];

/** @example statisticName('avg') // 'average' */
export function statisticName(statistic: Statistic): string {
  const names: Record<Statistic, string> = {
    avg: 'average',
    min: 'minimum',
    max: 'maximum',
    sum: 'sum',
    count: 'count',
    last: 'last value'
  };
  return names[statistic];
}
