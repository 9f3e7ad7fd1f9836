import { peopleDuration, spokenDuration } from '../time';
import { planEvery, type CollectionPlan } from './plan';

/**
 * A plan in one sentence.
 *
 * @param things what the service's resources are called, such as `machines`
 * @example planSentence(usualPlan, 'machines') // 'Collects the recommended metrics of all machines and of those that appear later, every 1 minute.'
 */
export function planSentence(plan: CollectionPlan, things: string): string {
  if (plan.collect === 'nothing') return `Collects nothing of the ${things}.`;
  const which = {
    all: 'every metric',
    recommended: 'the recommended metrics',
    list: plan.metrics.kind === 'list' ? `${plan.metrics.names.length} chosen metrics` : '',
    patterns: plan.metrics.kind === 'patterns' ? `metrics like ${plan.metrics.patterns.join(', ')}` : ''
  }[plan.metrics.kind];
  const whose = plan.collect === 'all' ? `all ${things} and of those that appear later` : `the chosen ${things}`;
  const out = [
    ...plan.leaveOut.names.map((name) => `names like ${name}`),
    ...plan.leaveOut.tags.map(({ key, value }) => `${key} ${value}`),
    ...plan.leaveOut.namespaces.map((namespace) => `namespace ${namespace}`)
  ];
  const leaving = out.length > 0 ? `, leaving out ${out.join(', ')}` : '';
  return `Collects ${which} of ${whose}, every ${spokenDuration(planEvery(plan))}${leaving}.`;
}

/**
 * A plan in a few words, for a table.
 *
 * @example planBrief(usualPlan) // 'recommended, every 1 min, and resources discovered later'
 */
export function planBrief(plan: CollectionPlan): string {
  if (plan.collect === 'nothing') return 'not collected';
  const which = { all: 'all', recommended: 'recommended', list: 'chosen metrics', patterns: 'by pattern' }[
    plan.metrics.kind
  ];
  const out = plan.leaveOut.names.length + plan.leaveOut.tags.length + plan.leaveOut.namespaces.length;
  return [
    which,
    `every ${peopleDuration(planEvery(plan))}`,
    plan.collect === 'all' ? 'and resources discovered later' : 'of the chosen',
    ...(out > 0 ? ['some left out'] : [])
  ].join(', ');
}
