import { alarmSchema, type AlarmDefinition } from '$lib/core/alarm';
import { objectiveMetrics, promiseWords, type Objective } from '$lib/core/objective';
import { plainSignal } from '$lib/core/signal';
import { keptWords } from '../alarms/alarmed-forms';

/** The tag by which a promise is found, whatever it is called. */
export const objectiveTag = 'promise';

/**
 * The alarm of a promise: how fast its error budget is used, against its levels; null where it has none. Its pace is above the limit of a level just when both of its spans are.
 *
 * @param before what the alarm is now: its owner, runbook and labels stay
 * @param formerly what the promise was before
 */
export function alarmOfObjective(
  id: number,
  objective: Objective,
  before: AlarmDefinition | null,
  formerly: Objective | null
): AlarmDefinition | null {
  const { name, enabled, route, levels } = objective;
  if (levels.length === 0) return null;
  const { owner, runbook, labels } = before ?? { owner: '', runbook: '', labels: {} };
  const about = keptWords(promiseWords(objective), before, formerly && promiseWords(formerly));
  return alarmSchema.parse({
    ...{ owner, about, runbook, labels, name: `Promise: ${name}`, enabled, route },
    signal: plainSignal({
      ...{ metric: objectiveMetrics.pace, statistic: 'last', step: 'PT5M' },
      where: [{ label: `tag.${objectiveTag}`, is: [String(id)] }]
    }),
    rule: {
      levels: levels.map(({ severity, rate }) => ({
        severity,
        condition: { kind: 'threshold', is: 'above', limit: rate }
      })),
      window: { needs: 1, of: 1 },
      // Nothing that happens uses nothing, and says nothing either: it stays as it is.
      whenMissing: 'keep'
    }
  });
}
