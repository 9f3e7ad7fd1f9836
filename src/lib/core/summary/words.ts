import { aboutMoney, dayWords, roundMoney, timesWords } from '../cost/words';
import { micros } from '../cost/money';
import { shareText } from '../objective/words';
import { dateAfter, peopleDuration, type Duration } from '../time';
import { countOf, formOf } from '../words/count';
import type { Summary } from './summary';

/**
 * How many more or fewer than before.
 *
 * @param isPart whether it is not over, and compared with as much of the one before
 * @example comparedWords(5, 8, 'week', false) // '3 fewer than the week before'
 */
export function comparedWords(now: number, earlier: number, kind: Summary['kind'], isPart: boolean): string {
  const then = isPart ? `by then in the ${kind} before` : `the ${kind} before`;
  if (now === earlier) return `as many as ${then}`;
  return `${Math.abs(now - earlier).toLocaleString('en')} ${now > earlier ? 'more' : 'fewer'} than ${then}`;
}

const listed = (parts: readonly string[]): string =>
  parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;

/** Whether a promise is met so far; null where nothing is known. */
export const isMet = ({ left }: Pick<Summary['promises'][number], 'left'>): boolean | null =>
  left === null ? null : left > 0;

function incidentWords({ kind, to, madeAt, incidents: { total, earlier, bySeverity, open } }: Summary): string {
  const raised =
    total === 0 ? 'Nothing was raised' : `${countOf(total, 'incident')} ${formOf(total, 'was', 'were')} raised`;
  const counted = bySeverity.filter(({ count }) => count > 0);
  const [only] = counted;
  const graded =
    counted.length === 1 && only !== undefined
      ? `${total === 1 ? 'It was' : 'All were'} ${only.severity}.`
      : `They were ${listed(counted.map(({ severity, count }) => `${count} ${severity}`))}.`;
  return [
    total + earlier === 0
      ? `${raised}, as in the ${kind} before.`
      : `${raised}, ${comparedWords(total, earlier, kind, madeAt < to)}.`,
    ...(total === 0 ? [] : [graded]),
    ...(open === 0 ? [] : [`${countOf(open, 'incident')} ${formOf(open, 'is', 'are')} still open.`])
  ].join(' ');
}

function serviceWords({ services }: Summary): string[] {
  const most = services.reduce<Summary['services'][number] | null>(
    (so, one) => (one.count > (so?.count ?? 0) ? one : so),
    null
  );
  return most === null
    ? []
    : [`${most.title} had the most: ${most.count}${most.worst === null ? '' : `, the gravest ${most.worst}`}.`];
}

function longestWords({ longest: [first] }: Summary): string[] {
  if (first === undefined) return [];
  const length = peopleDuration(first.length as Duration);
  const { alarm, subject, closedAt } = first;
  const what = alarm.includes(subject) ? alarm : `${alarm} on ${subject}`;
  return [
    closedAt === null ? `The longest has been open for ${length}: ${what}.` : `The longest lasted ${length}: ${what}.`
  ];
}

function promiseWords({ promises }: Summary): string[] {
  const known = promises.filter((one) => isMet(one) !== null);
  if (known.length === 0) return [];
  const broken = known.filter((one) => isMet(one) === false);
  if (broken.length === 0)
    return [
      known.length === 1 ? `The promise ${known[0]?.name ?? ''} is met.` : `All ${known.length} promises are met.`
    ];
  const named = broken
    .slice(0, 3)
    .map(
      ({ name, good, targetPercent }) =>
        `${name} (${good === null ? 'nothing' : shareText(good)} of ${targetPercent} %)`
    );
  const more = broken.length - named.length;
  return [
    `${broken.length} of ${countOf(known.length, 'promise')} ${formOf(broken.length, 'is', 'are')} broken: ${listed([...named, ...(more > 0 ? [`${more} more`] : [])])}.`
  ];
}

/** A cost against the one before. @example comparedCost(1.04) // '4 % more than' */
function comparedCost(times: number): string {
  const percent = Math.round(Math.abs(times - 1) * 100);
  if (percent === 0) return 'about as much as';
  return times >= 1.95
    ? `${timesWords(times, 1)} as`
    : `${percent.toLocaleString('en')} % ${times > 1 ? 'more' : 'less'} than`;
}

/** Between which amounts a month ends in four of five cases; nothing where they are told alike. */
function intervalWords({ low, high }: { readonly low: number; readonly high: number }, currency: string): string {
  const [least, most] = [low, high].map((amount) => aboutMoney(amount, currency));
  return least === most ? '' : `, between ${least} and ${most}`;
}

function costWords({ kind, cost }: Summary): string[] {
  if (cost === null) return [];
  const { currency, total, earlier, unbilledFrom, expected, changes } = cost;
  const then = `the ${unbilledFrom === null ? '' : 'same days of the '}${kind} before`;
  const than = earlier === null || earlier <= 0 ? '' : `, ${comparedCost(total / earlier)} ${then}`;
  const paid = `It cost ${roundMoney(micros(total), currency)}${than}.`;
  const until = unbilledFrom === null ? '' : ` What is after ${dayBefore(unbilledFrom)} is not billed yet.`;
  const [jump] = changes;
  return [
    `${paid}${until}`,
    ...(expected === null
      ? []
      : [
          `${expected.month} is expected to cost about ${aboutMoney(expected.middle, currency)}${intervalWords(expected, currency)}.`
        ]),
    ...(jump === undefined
      ? []
      : [
          `${jump.what} costs ${aboutMoney(jump.after, currency)} a day since ${dayWords(jump.date)}; before, it was ${aboutMoney(jump.before, currency)}.${jump.near === '' ? '' : ` Near it: ${jump.near}.`}`
        ])
  ];
}

const dayBefore = (date: string): string => dayWords(dateAfter(date, -1));

function changedWords({ changed, moreChanged }: Summary): string[] {
  const count = changed.length + moreChanged;
  return count === 0 ? [] : [`${countOf(count, 'change')} ${formOf(count, 'was', 'were')} marked.`];
}

/**
 * A summary in plain sentences, what matters most first. Names of people's own come as they are.
 *
 * @example summarySentences(summary)[0] // '12 incidents were raised, 3 fewer than the week before. They were 1 critical and 11 minor.'
 */
export const summarySentences = (summary: Summary): string[] => [
  incidentWords(summary),
  ...serviceWords(summary),
  ...longestWords(summary),
  ...promiseWords(summary),
  ...costWords(summary),
  ...changedWords(summary)
];
