import { signalsOfAlarm, watchedTitle, watchedUnit, type AlarmDefinition } from '$lib/core/alarm';
import { asksFor, picksOf } from '$lib/core/signal';
import type { Metric } from '../inventory/metrics';

/** How what an alarm watches is described and drawn. */
export interface WatchedWords {
  readonly title: string;
  /** UCUM code. */
  readonly unit: string;
  /** The longest sampling interval of its metrics. */
  readonly samplingMs: number;
}

/** @param metrics all metrics, by any order */
export function watchedWords(definition: AlarmDefinition, metrics: readonly Metric[]): WatchedWords {
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const picks = signalsOfAlarm(definition).flatMap(picksOf);
  const picked = metrics.filter(({ name }) => picks.some(({ metric }) => asksFor(metric, name)));
  return {
    title: watchedTitle(definition, wordsOf),
    unit: watchedUnit(definition.signal, wordsOf),
    samplingMs: Math.max(60_000, ...picked.map(({ samplingMs }) => samplingMs))
  };
}
