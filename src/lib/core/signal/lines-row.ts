import { z } from 'zod';
import { fieldStatistics } from '../logs/counted';
import { linePatternSchema } from '../logs/pattern/line-pattern';
import { mostSearchCharacters } from '../logs/search/limits';
import { quoted } from '../logs/search/write';
import { labelConditionSchema, type LabelCondition } from './conditions';

/** Groups of lines that a row tells apart; those of the fewest lines go together. */
export const mostLineGroups = 100;

const fieldName = z.string().min(1).max(200);

/** What a row of lines has besides its name. */
export const linesRowShape = {
  /** A search of lines; empty for every line. */
  lines: z.string().max(mostSearchCharacters),
  where: z.array(labelConditionSchema).max(12).default([]),
  /** Fields by whose values lines are told apart. */
  by: z.array(fieldName).max(3).default([]),
  /** A field whose numbers are taken; lines are counted without one. */
  of: z
    .strictObject({
      field: fieldName,
      statistic: z.enum(fieldStatistics),
      /** UCUM code of its numbers. */
      unit: z.string().min(1).max(60).default('1')
    })
    .optional(),
  /** How fields are read from the text of lines that do not have them. */
  pattern: linePatternSchema.optional()
};

/** Labels of series by which lines can be told apart, too; conditions on others, such as regions, do not narrow lines. */
export const lineLabels = ['account', 'service', 'resource'] as const;

/** Whether a condition on a label narrows lines. @example narrowsLines('region') // false */
export const narrowsLines = (label: string): boolean => (lineLabels as readonly string[]).includes(label);

/** What a row of lines looks for. */
interface LooksFor {
  readonly lines: string;
  readonly where: readonly LabelCondition[];
}

/**
 * What a row of lines looks for as it is typed, its conditions among it. Clauses beside each other all hold, so they stand behind the search as it is.
 *
 * @example searchText({ lines: 'killed', where: [{ label: 'account', is: ['fleet-edge'] }] }) // 'killed account = "fleet-edge"'
 */
export const searchText = ({ lines, where }: LooksFor): string =>
  [lines.trim(), ...where.flatMap(clauseOf)].filter((clause) => clause !== '').join(' ');

function clauseOf(condition: LabelCondition): string[] {
  const { label } = condition;
  if (!narrowsLines(label) || 'picker' in condition) return [];
  const oneOf = (values: readonly string[]) => values.map((value) => `${label} = ${quoted(value)}`).join(' or ');
  if ('is' in condition) return [oneOf(condition.is)];
  if ('isNot' in condition) return [`not (${oneOf(condition.isNot)})`];
  const matches = (pattern: string) => `${label} matches /${pattern.replace(/\//g, '\\/')}/`;
  return ['matches' in condition ? matches(condition.matches) : `not ${matches(condition.matchesNot)}`];
}

/**
 * The lines behind a series that counts some, as a search is typed: those of its values. Of what is alike, the longest words that all of them say are looked for.
 *
 * @param labels of the series; none for all of the row's lines
 * @example searchBehind({ lines: 'refused', where: [], by: ['reason'] }, { reason: 'no seat' }) // 'refused reason = "no seat"'
 */
export function searchBehind(
  row: LooksFor & { readonly by: readonly string[] },
  labels: Readonly<Record<string, string>> = {}
): string {
  const own = row.by.map((field) => {
    const value = Object.hasOwn(labels, field) ? (labels[field] ?? '') : '';
    if (value === '') return '';
    if (field !== 'shape') return `${/^[\w.-]+$/.test(field) ? field : quoted(field)} = ${quoted(value)}`;
    const runs = value.split(/‹[^›]*›/).map((run) => run.trim());
    const longest = runs.reduce((most, run) => (run.length > most.length ? run : most), '');
    return longest === '' ? '' : quoted(longest);
  });
  return [searchText(row), ...own].filter((clause) => clause !== '').join(' ');
}

/** The services that a row of lines names as the only ones it looks in; none where that is not plain to see. @example servicesOfLines({ lines: 'service = clusters killed', where: [] }) // ['clusters'] */
export function servicesOfLines(row: LooksFor): string[] {
  const text = searchText(row);
  if (/(?:^|\s)(?:or|not)(?:\s|$)/i.test(text)) return [];
  const named = text.matchAll(/(?:^|\s)service\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^\s()"=<>!*]+))(?=\s|$)/gi);
  return [...new Set([...named].map(([, inQuotes, bare]) => inQuotes?.replace(/\\(.)/g, '$1') ?? bare ?? ''))];
}
