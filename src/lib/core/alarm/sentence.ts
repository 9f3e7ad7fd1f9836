import { spokenDuration } from '../time';
import { plainPick, signalSubject, stepOf, type Signal, type WordsOf } from '../signal';
import { unitOfStatistic } from '../series';
import { unit } from '../units';
import type { AlarmDefinition } from './schema';

/**
 * The unit that an alarm's threshold is in: what its signal says, or its only metric's.
 *
 * @returns a UCUM code; `1` for what says nothing of its unit
 * @example watchedUnit(plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }), wordsOf) // '%'
 */
export function watchedUnit(
  signal: Signal,
  wordsOf: (metric: string) => { readonly unit: string } | undefined
): string {
  const pick = plainPick(signal);
  return signal.unit ?? (pick ? unitOfStatistic(pick.statistic, wordsOf(pick.metric)?.unit ?? '1') : '1');
}

/** What an alarm watches in a word or two: its only metric's title, or the alarm's own name. @example watchedTitle(alarm, wordsOf) // 'Processor use' */
export const watchedTitle = (
  { signal, name }: Pick<AlarmDefinition, 'signal' | 'name'>,
  titleOf: (metric: string) => { readonly title: string } | undefined
): string => {
  const pick = plainPick(signal);
  return pick ? (titleOf(pick.metric)?.title ?? pick.metric) : name;
};

/**
 * An alarm in one sentence.
 *
 * @example alarmSentence(alarm, wordsOf)
 * // 'Raise major when average processor use of each machine is above 80 % in 3 of the last 5 windows of 1 minute.'
 */
export function alarmSentence({ signal, rule, severity }: AlarmDefinition, wordsOf: WordsOf): string {
  const { condition, window } = rule;
  const windows = window.of === 1 ? 'the last window' : `${window.needs} of the last ${window.of} windows`;
  const threshold = `${condition.threshold} ${unit(watchedUnit(signal, wordsOf)).text}`.trim();
  const watched = signalSubject(signal, wordsOf);
  const subject = watched.includes(', which is ') ? `${watched},` : watched;
  return `Raise ${severity} when ${subject} is ${condition.is} ${threshold} in ${windows} of ${spokenDuration(stepOf(signal))}.`;
}
