import type { AlarmDefinition, Rule } from '../../src/lib/core/alarm';
import { plainSignal } from '../../src/lib/core/signal';

/** A rule: above 80 in some of the last cells. */
export const rule = (needs: number, of: number, more: Partial<Rule> = {}): Rule => ({
  condition: { is: 'above', threshold: 80 },
  window: { needs, of },
  whenMissing: 'indeterminate',
  ...more
});
/** An alarm on the processors of one account. */
export const alarm: AlarmDefinition = {
  name: 'Processor nearly exhausted',
  signal: plainSignal({
    metric: 'machine.processor.use',
    where: [{ label: 'account', is: ['corallo-prod'] }],
    statistic: 'avg'
  }),
  rule: rule(3, 5),
  severity: 'major',
  channels: [1]
};
