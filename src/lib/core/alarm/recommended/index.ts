import { durationFromText, textFromDuration, times, type Duration } from '../../time';
import type { Condition } from '../condition';
import type { AlarmDefinition, EvaluationWindow } from '../schema';
import { entries, type Entry } from './entries';

/** What recommending needs to know of a metric. */
export interface KnownMetric {
  readonly name: string;
  readonly service: string;
  readonly samplingMs: Duration;
  /** How often the slowest account requests it. */
  readonly everyMs: Duration;
}

/** An alarm that suits a service, before its numbers are looked up in the history. */
export interface RecommendedAlarm {
  /** Its name in addresses. */
  readonly key: string;
  readonly service: string;
  /** Why somebody wants to be woken by it. */
  readonly why: string;
  /** Who is notified is chosen when it is switched on. */
  readonly definition: AlarmDefinition;
}

/**
 * The alarms that suit what is collected, by service in the order of the index.
 *
 * @param metrics those that have samples
 * @param service of one service; undefined for all
 * @example recommendedAlarms(metrics, 'databases').map(({ definition }) => definition.name) // ['Connections nearly used up', …]
 */
export function recommendedAlarms(metrics: readonly KnownMetric[], service?: string): RecommendedAlarm[] {
  return entries
    .filter((entry) => service === undefined || entry.service === service)
    .flatMap((entry) => {
      const names = entry.signal.rows.flatMap((row) => ('metric' in row ? [row.metric] : []));
      const known = names.map((name) => metrics.find((metric) => metric.name === name));
      if (known.some((metric) => metric === undefined)) return [];
      const sampling = known.reduce((most, one) => Math.max(most, one?.samplingMs ?? 0), 0);
      const every = known.reduce((most, one) => Math.max(most, one?.everyMs ?? 0), 0);
      return [recommended(entry, sampling, every)];
    });
}

function recommended(entry: Entry, sampling: number, every: number): RecommendedAlarm {
  const { service, name, why, levels, window = [3, 5], clearing, whenMissing = 'indeterminate' } = entry;
  // Cells shorter than a sample are mostly empty.
  const own = durationFromText(entry.signal.step);
  const step = Math.max(own, sampling) as Duration;
  // A cell that is twelve times as long needs no more than one of them.
  const shorter = Math.max(1, Math.round(step / own));
  const windowOf: EvaluationWindow = {
    needs: Math.max(1, Math.ceil(window[0] / shorter)),
    of: Math.max(1, Math.ceil(window[1] / shorter))
  };
  const quiet = times(3, Math.max(every, sampling) as Duration);
  return {
    key: name.toLowerCase().replace(/[^a-z]+/g, '-'),
    service,
    why,
    definition: {
      name,
      signal: { ...entry.signal, step: textFromDuration(step) },
      rule: {
        levels: levels.map(([severity, condition]) => ({ severity, condition: withSilence(condition, quiet) })),
        window: windowOf,
        ...(clearing !== undefined && shorter === 1 && { clearing: { needs: clearing, of: clearing } }),
        whenMissing,
        zone: 'UTC'
      },
      route: null,
      enabled: true,
      labels: {},
      owner: '',
      about: why,
      runbook: ''
    }
  };
}

/** What comes every hour is not silent after a quarter of one. */
const withSilence = (condition: Condition, least: Duration): Condition =>
  condition.kind === 'absence' && durationFromText(condition.for) < least
    ? { ...condition, for: textFromDuration(least) }
    : condition;
