import equal from 'fast-deep-equal';
import { signalSubject, type WordsOf } from '../signal';
import { conditionIn, watchedUnit, windowText } from './sentence';
import { stepOfAlarm, type AlarmDefinition } from './schema';
import { severities } from './severity';

/** What differences are told with. */
export interface DifferenceWords {
  readonly wordsOf: WordsOf;
  /** The name of a route. */
  readonly routeOf: (id: number) => string;
  /** The name of an alarm. */
  readonly alarmOf: (id: number) => string;
}

/**
 * What differs between two definitions of an alarm, in sentences; nothing when they are the same.
 *
 * @example alarmDifferences(alarm, { ...alarm, owner: 'Data stores' }, words) // ['The owner was nobody, is “Data stores”.']
 */
export function alarmDifferences(before: AlarmDefinition, after: AlarmDefinition, words: DifferenceWords): string[] {
  const told = [
    ...named('name', before.name, after.name),
    ...watchedDifferences(before, after, words),
    ...levelDifferences(before, after, words),
    ...ruleDifferences(before, after),
    ...detailDifferences(before, after),
    ...routeDifferences(before, after, words)
  ];
  // What no sentence tells of, such as the order of parts, is a difference all the same.
  return told.length === 0 && !equal(before, after) ? ['Something without a sentence of its own was changed.'] : told;
}

const quoted = (value: string, none: string): string => (value === '' ? none : `“${value}”`);
const named = (what: string, before: string, after: string, none = 'nothing'): string[] =>
  before === after ? [] : [`The ${what} was ${quoted(before, none)}, is ${quoted(after, none)}.`];

function watchedDifferences(before: AlarmDefinition, after: AlarmDefinition, words: DifferenceWords): string[] {
  const [was, is] = [watchedWords(before, words), watchedWords(after, words)];
  if (was !== is) return [`It watched ${was}, watches ${is}.`];
  // The length of its cells is told with its windows.
  const withoutStep = ({ signal, combines }: AlarmDefinition) => [
    signal && { ...signal, step: '' },
    combines && { ...combines, step: '' }
  ];
  return equal(withoutStep(before), withoutStep(after)) ? [] : ['What it watches was changed.'];
}

function watchedWords({ signal, combines }: AlarmDefinition, { wordsOf, alarmOf }: DifferenceWords): string {
  if (signal) return signalSubject(signal, wordsOf);
  const parts = (combines?.parts ?? []).map((part) => `“${'alarm' in part ? alarmOf(part.alarm) : part.name}”`);
  const by = combines?.by ?? [];
  return `${parts.join(' and ')}${by.length > 0 ? `, joined on ${by.join(' and ')}` : ''}`;
}

function levelDifferences(before: AlarmDefinition, after: AlarmDefinition, { wordsOf }: DifferenceWords): string[] {
  const conditionOf = ({ rule, signal }: AlarmDefinition, severity: string) => {
    const level = rule.levels.find((one) => one.severity === severity);
    return level && { ...level, text: `when it ${conditionIn(level.condition, watchedUnit(signal, wordsOf))}` };
  };
  return severities.flatMap((severity) => {
    const [was, is] = [conditionOf(before, severity), conditionOf(after, severity)];
    if (equal(was?.condition, is?.condition)) return [];
    if (!was) return [`It is raised as ${severity} ${is?.text}; it was not before.`];
    if (!is) return [`It is raised as ${severity} no longer; it was ${was.text}.`];
    return [
      was.text === is.text
        ? `The condition of ${severity} was changed.`
        : `It was raised as ${severity} ${was.text}; it is ${is.text}.`
    ];
  });
}

const missingWords = {
  indeterminate: 'indeterminate',
  keep: 'keep the state',
  meets: 'count as meeting the condition',
  'does not meet': 'count as not meeting the condition'
} as const;

function ruleDifferences(before: AlarmDefinition, after: AlarmDefinition): string[] {
  const changed = (says: string, of: (alarm: AlarmDefinition) => string): string[] =>
    of(before) === of(after) ? [] : [`${says} ${of(before)}; now ${of(after)}.`];
  return [
    ...changed('It looked at', (alarm) => windowText(alarm.rule.window, stepOfAlarm(alarm))),
    ...changed('It cleared by', ({ rule, ...alarm }) =>
      rule.clearing ? windowText(rule.clearing, stepOfAlarm(alarm)) : 'the same window'
    ),
    ...changed('For missing data it said', ({ rule }) => missingWords[rule.whenMissing]),
    ...changed('Its hours were those of', ({ rule }) => rule.zone)
  ];
}

function detailDifferences(before: AlarmDefinition, after: AlarmDefinition): string[] {
  const labels = [...new Set([...Object.keys(before.labels), ...Object.keys(after.labels)])].sort();
  return [
    ...(before.enabled === after.enabled ? [] : [`It was switched ${after.enabled ? 'on' : 'off'}.`]),
    ...named('owner', before.owner, after.owner, 'nobody'),
    ...labels.flatMap((label) => named(`label ${label}`, before.labels[label] ?? '', after.labels[label] ?? '')),
    ...(before.about === after.about ? [] : ['What it tells whoever is woken was changed.']),
    ...named('runbook', before.runbook, after.runbook)
  ];
}

function routeDifferences(before: AlarmDefinition, after: AlarmDefinition, { routeOf }: DifferenceWords): string[] {
  if (before.route === after.route) return [];
  return [
    after.route === null
      ? 'Who is notified is up to the list of routes.'
      : `Who is notified is up to the route “${routeOf(after.route)}”.`
  ];
}
