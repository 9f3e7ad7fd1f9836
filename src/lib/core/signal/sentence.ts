import { oneOfType, severalOfType } from '../services';
import { spokenDuration, type Duration } from '../time';
import { statisticName, statisticOf, unitOfStatistic } from '../series';
import { unit } from '../units';
import { spokenCondition, type LabelCondition } from './conditions';
import {
  fixedStepOf,
  isOfLines,
  isPick,
  shownRows,
  type Combine,
  type LinesRow,
  type Row,
  type Signal,
  type SignalPick
} from './schema';

/** What a sentence needs to know of a metric. */
export interface MetricWords {
  readonly title: string;
  readonly unit: string;
  /** The resource type in the singular, such as `machine`. */
  readonly resourceType: string;
}

/** The words of a metric by its name or pattern; undefined for one that is not known. */
export type WordsOf = (metric: string) => MetricWords | undefined;

/**
 * A signal in one sentence, without its final stop.
 *
 * @param words of its metric, or of each of its metrics
 * @param known the unit and the step of its result; the metric's and its own by default
 * @example signalSentence(signal, { title: 'Processor use', unit: '%', resourceType: 'machine' })
 * // 'Average processor use of each machine in corallo-prod, every 1 minute, in %'
 */
export function signalSentence(
  signal: Signal,
  words: MetricWords | WordsOf,
  known: { readonly unit?: string; readonly step?: Duration } = {}
): string {
  const wordsOf: WordsOf = typeof words === 'function' ? words : () => words;
  const rows = shown(signal);
  const step = known.step ?? fixedStepOf(signal);
  const { limit } = signal;
  const code = signal.unit ?? known.unit ?? unitOfRows(rows, wordsOf);
  const { text } = unit(code);
  return [
    capital(signalSubject(signal, wordsOf)),
    step === null ? 'in cells that follow the range' : `every ${spokenDuration(step)}`,
    ...(limit ? [`${limit.order} ${limit.keep}`] : []),
    ...(text === '' ? [] : [`in ${text}`])
  ].join(', ');
}

/** What a signal shows, to be said within a sentence. @example signalSubject(signal, wordsOf) // 'average processor use of each machine' */
export const signalSubject = (signal: Signal, wordsOf: WordsOf): string => {
  const parts = shown(signal)
    .map((row) => rowSentence(row, wordsOf))
    .join(' and ');
  return parts.charAt(0).toLowerCase() + parts.slice(1);
};

const shown = (signal: Signal): Row[] =>
  shownRows(signal).flatMap((name) => signal.rows.find((row) => row.name === name) ?? []);

/** @example rowSentence({ name: 'share', formula: 'a / b' }, wordsOf) // 'share, which is a / b' */
export function rowSentence(row: Row, wordsOf: WordsOf): string {
  if (isPick(row)) return pickSentence(row, wordsOf(row.metric));
  return isOfLines(row) ? linesSentence(row) : `${row.name}, which is ${row.formula.trim()}`;
}

function linesSentence({ lines, where, by, of }: LinesRow): string {
  const search = lines.trim();
  const found = search === '' ? 'lines' : `lines that match “${search}”`;
  const what = of === undefined ? `number of ${found}` : `${statisticOf(of.statistic, of.field)} in ${found}`;
  const groups = by.length === 0 ? '' : ` by ${by.join(' and ')}`;
  return `${what}${groups}${placesOf(where)}`;
}

/** Where something is picked, led by a space; empty for everywhere. */
function placesOf(where: readonly LabelCondition[]): string {
  const conditions = where.map((condition) => {
    const place = 'is' in condition && (condition.label === 'account' || condition.label === 'region');
    return place ? `in ${condition.is.join(' or ')}` : `where ${spokenCondition(condition)}`;
  });
  return conditions.length > 0 ? ` ${conditions.join(', ')}` : '';
}

function pickSentence({ metric, where, statistic, combine }: SignalPick, words: MetricWords | undefined): string {
  const places = placesOf(where);
  const what = statisticOf(statistic, (words?.title ?? metric).toLowerCase());
  const of = combine
    ? ` ${combinedWords(combine)} of all ${severalOfType(words?.resourceType)}`
    : ` of each ${oneOfType(words?.resourceType)}`;
  return `${what}${combine ? ',' : ''}${of}${places}`;
}

/** @example combinedWords({ statistic: 'sum', by: ['account'] }) // 'added up by account' */
export function combinedWords({ statistic, by }: Combine): string {
  const groups = by.length === 0 ? 'over everything' : `by ${by.join(' and ')}`;
  return `${combining[statistic] ?? `the ${statisticName(statistic)}`} ${groups}`;
}

const combining: Readonly<Partial<Record<Combine['statistic'], string>>> = {
  sum: 'added up',
  avg: 'averaged',
  min: 'the lowest',
  max: 'the highest',
  count: 'counted'
};

function unitOfRows(rows: readonly Row[], wordsOf: WordsOf): string {
  const [first] = rows;
  if (first && isOfLines(first)) return first.of?.unit ?? '1';
  if (!first || !isPick(first)) return '1';
  if (first.combine?.statistic === 'count') return '1';
  return unitOfStatistic(first.statistic, wordsOf(first.metric)?.unit ?? '1');
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
