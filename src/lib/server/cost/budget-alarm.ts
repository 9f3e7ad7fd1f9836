import { alarmSchema, type AlarmDefinition } from '$lib/core/alarm';
import { budgetMetrics, budgetWords, type Budget } from '$lib/core/cost';
import { plainSignal } from '$lib/core/signal';
import { keptWords } from '../alarms/alarmed-forms';

/** The tag by which a budget is found, whatever it is called. */
export const budgetTag = 'budget';

/**
 * The alarm that is raised by a budget: its share that is expected or spent, against its levels. It says of itself what the budget is in money, unless people wrote something else.
 *
 * @param before what the alarm is now: its owner, runbook and labels stay
 * @param formerly what the budget was before
 */
export function alarmOfBudget(
  id: number,
  budget: Budget,
  before: AlarmDefinition | null,
  formerly: Budget | null
): AlarmDefinition {
  const metric = budget.on === 'expected' ? budgetMetrics.expected : budgetMetrics.spent;
  const { owner, runbook, labels } = before ?? { owner: '', runbook: '', labels: {} };
  const about = keptWords(budgetWords(budget), before, formerly && budgetWords(formerly));
  return alarmSchema.parse({
    ...{ owner, about, runbook, labels, name: `Budget: ${budget.name}`, enabled: budget.enabled, route: budget.route },
    signal: plainSignal({
      ...{ metric, statistic: 'last', step: 'PT5M' },
      where: [{ label: `tag.${budgetTag}`, is: [String(id)] }]
    }),
    rule: {
      levels: budget.levels.map(({ severity, percent }) => ({
        severity,
        condition: { kind: 'threshold', is: 'above', limit: percent }
      })),
      window: { needs: 1, of: 1 },
      // Bills that are not read say nothing: it stays as it is.
      whenMissing: 'keep'
    }
  });
}
