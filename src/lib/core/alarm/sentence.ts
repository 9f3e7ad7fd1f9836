import { duration, peopleDuration, spokenDuration, times, type Duration } from '../time';
import { plainPick, signalSubject, type Signal, type WordsOf } from '../signal';
import { unitOfStatistic } from '../series';
import { limitText, quantityText } from '../units';
import { conditionText, type Condition } from './condition';
import { stepOfAlarm, type AlarmDefinition, type EvaluationWindow, type Rule } from './schema';

type MetricUnits = (metric: string) => { readonly unit: string } | undefined;

/**
 * The unit that an alarm's thresholds are in: what its signal says, or its only metric's.
 *
 * @returns a UCUM code; `1` for what says nothing of its unit
 * @example watchedUnit(plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }), wordsOf) // '%'
 */
export function watchedUnit(signal: Signal | undefined, wordsOf: MetricUnits): string {
  if (signal === undefined) return '1';
  const pick = plainPick(signal);
  return signal.unit ?? (pick ? unitOfStatistic(pick.statistic, wordsOf(pick.metric)?.unit ?? '1') : '1');
}

/** What an alarm watches in a word or two: its only metric's title, or the alarm's own name. @example watchedTitle(alarm, wordsOf) // 'Processor use' */
export const watchedTitle = (
  { signal, name }: Pick<AlarmDefinition, 'signal' | 'name'>,
  titleOf: (metric: string) => { readonly title: string } | undefined
): string => {
  const pick = signal ? plainPick(signal) : null;
  return pick ? (titleOf(pick.metric)?.title ?? pick.metric) : name;
};

/** A condition in words, its numbers in a unit. @example conditionIn({ kind: 'threshold', is: 'above', limit: 80 }, '%') // 'is above 80 %' */
export const conditionIn = (condition: Condition, unit: string): string =>
  conditionText(condition, { limit: (value) => limitText(value, unit) });

/**
 * The limit that something went beyond, for a line that has little room.
 *
 * @example limitOf({ kind: 'threshold', is: 'above', limit: 80 }, '%') // 'limit 80 %'
 */
export const limitOf = (condition: Condition, unit: string): string =>
  condition.kind === 'threshold' && 'limit' in condition && !condition.exceptions
    ? `limit ${limitText(condition.limit, unit)}`
    : conditionIn(condition, unit).replace(/^(is|has had|will be) /, (verb) => (verb === 'is ' ? '' : verb));

/**
 * What a condition compared, in words: a quantity for most, a length of time for absence.
 *
 * @example comparedText({ kind: 'absence', for: 'PT10M' }, 720_000, '%') // 'no sample for 12 min'
 */
export function comparedText(condition: Condition, value: number, unit: string): string {
  if (condition.kind === 'absence')
    return Number.isFinite(value) ? `no sample for ${peopleDuration(duration(Math.round(value)))}` : 'no sample';
  if (condition.kind === 'combined') return Number.isFinite(value) ? `${value} of its parts hold` : '–';
  return quantityText(value, unit);
}

/** A window in words. @example windowText({ needs: 3, of: 5 }, minute) // '3 of the last 5 windows of 1 minute' */
export function windowText({ needs, of }: EvaluationWindow, step: Duration): string {
  if (of === 1) return `the last window of ${spokenDuration(step)}`;
  if (needs === of) return `${of} windows of ${spokenDuration(step)} in a row`;
  return `${needs} of the last ${of} windows of ${spokenDuration(step)}`;
}

/**
 * An alarm in one sentence.
 *
 * @example alarmSentence(alarm, wordsOf)
 * // 'Raise major when average processor use of each machine is above 80 % in 3 of the last 5 windows of 1 minute.'
 */
export function alarmSentence(alarm: AlarmDefinition, wordsOf: WordsOf): string {
  const { signal, combines, rule } = alarm;
  const unit = watchedUnit(signal, wordsOf);
  const watched = signal ? signalSubject(signal, wordsOf) : `of ${combines?.parts.length ?? 0} parts,`;
  const subject = watched.includes(', which is ') ? `${watched},` : watched;
  const [first, ...graver] = rule.levels;
  const conditions = [
    `Raise ${first?.severity ?? ''} when ${subject} ${first ? conditionIn(first.condition, unit) : ''}`,
    ...graver.map(({ severity, condition }) => `, ${severity} when it ${conditionIn(condition, unit)}`)
  ].join('');
  return `${conditions}${graver.length > 0 ? ',' : ''} in ${windowText(rule.window, stepOfAlarm(alarm))}.${clearingText(rule, stepOfAlarm(alarm))}`;
}

function clearingText({ clearing }: Pick<Rule, 'clearing'>, step: Duration): string {
  if (!clearing) return '';
  const what =
    clearing.needs === clearing.of
      ? `for ${peopleDuration(times(clearing.of, step))}`
      : `in ${windowText(clearing, step)}`;
  return ` Clear when it has been well ${what}.`;
}
