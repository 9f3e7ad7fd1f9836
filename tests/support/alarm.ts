import type { AlarmDefinition, Level, Rule, Severity } from '../../src/lib/core/alarm';
import { plainSignal } from '../../src/lib/core/signal';

/** A level with one threshold. */
export const threshold = (is: 'above' | 'below', limit: number, severity: Severity = 'major'): Level => ({
  severity,
  condition: { kind: 'threshold', is, limit }
});

/** A rule: above 80 in some of the last cells. */
export const rule = (needs: number, of: number, more: Partial<Rule> = {}): Rule => ({
  levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 80 } }],
  window: { needs, of },
  whenMissing: 'indeterminate',
  zone: 'UTC',
  ...more
});
/** What people may add to an alarm and need not. */
export const plainDetails = { enabled: true, labels: {}, owner: '', about: '', runbook: '' };

/** An alarm on the processors of one account. */
export const alarm: AlarmDefinition = {
  name: 'Processor nearly exhausted',
  signal: plainSignal({
    metric: 'machine.processor.use',
    where: [{ label: 'account', is: ['corallo-prod'] }],
    statistic: 'avg'
  }),
  rule: rule(3, 5),
  ...plainDetails,
  route: null
};
