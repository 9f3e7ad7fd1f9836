import { z } from 'zod';
import { isRefused } from '../problem/problem';
import { fieldStatistics } from '../logs/counted';
import { linePatternSchema } from '../logs/pattern/line-pattern';
import { mostSearchCharacters, readSearch } from '../logs/search/read';
import type { Search } from '../logs/search/tree';
import { writeSearch } from '../logs/search/write';
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

/**
 * What a row of lines looks for, its conditions among it.
 *
 * @throws Refusal `search-invalid` for a search that cannot be read
 * @example writeSearch(searchOfLines({ lines: 'killed', where: [{ label: 'account', is: ['fleet-edge'] }] })) // 'killed account = "fleet-edge"'
 */
export function searchOfLines({
  lines,
  where
}: {
  readonly lines: string;
  readonly where: readonly LabelCondition[];
}): Search {
  const search = readSearch(lines);
  const parts = [
    ...(search.kind === 'all' ? search.parts : [search]),
    ...where.flatMap((condition) => partOf(condition))
  ];
  return { kind: 'all', parts, at: search.at };
}

const nowhere = [0, 0] as const;

function partOf(condition: LabelCondition): Search[] {
  if (!narrowsLines(condition.label) || 'picker' in condition) return [];
  const { label: field } = condition;
  const oneOf = (values: readonly string[]): Search => ({
    kind: 'any',
    parts: values.map((value) => ({ kind: 'compare', field, operator: '=', value, quoted: true, at: nowhere })),
    at: nowhere
  });
  if ('is' in condition) return [oneOf(condition.is)];
  if ('isNot' in condition) return [{ kind: 'not', of: oneOf(condition.isNot), at: nowhere }];
  const pattern = 'matches' in condition ? condition.matches : condition.matchesNot;
  const matches: Search = { kind: 'matches', field, pattern, at: nowhere };
  return ['matches' in condition ? matches : { kind: 'not', of: matches, at: nowhere }];
}

/** The services that a row of lines names as the only ones it looks in. @example servicesOfLines({ lines: 'service = clusters killed', where: [] }) // ['clusters'] */
export function servicesOfLines(row: { readonly lines: string; readonly where: readonly LabelCondition[] }): string[] {
  let search: Search;
  try {
    search = searchOfLines(row);
  } catch (error) {
    if (!isRefused(error, 'search-invalid')) throw error;
    return []; // said where the signal is evaluated
  }
  const parts = search.kind === 'all' ? search.parts : [search];
  const named = (part: Search): string[] | null => {
    if (part.kind === 'compare') return part.field === 'service' && part.operator === '=' ? [part.value] : null;
    if (part.kind !== 'any') return null;
    const all = part.parts.map(named);
    return all.every((one) => one !== null) ? all.flat() : null;
  };
  return [...new Set(parts.flatMap((part) => named(part) ?? []))];
}

/**
 * The lines behind a series that counts some, as a search is typed: those of its values. Of what is alike, the longest words that all of them say are looked for.
 *
 * @param labels of the series; none for all of the row's lines
 * @throws Refusal `search-invalid`
 * @example searchBehind({ lines: 'refused', where: [], by: ['reason'] }, { reason: 'no seat' }) // 'refused reason = "no seat"'
 */
export function searchBehind(
  row: { readonly lines: string; readonly where: readonly LabelCondition[]; readonly by: readonly string[] },
  labels: Readonly<Record<string, string>> = {}
): string {
  const search = searchOfLines(row);
  const parts = search.kind === 'all' ? search.parts : [search];
  const own = row.by.flatMap((field): Search[] => {
    const value = Object.hasOwn(labels, field) ? (labels[field] ?? '') : '';
    if (value === '') return [];
    if (field !== 'shape') return [{ kind: 'compare', field, operator: '=', value, quoted: true, at: nowhere }];
    const [longest = ''] = value
      .split(/‹[^›]*›/)
      .map((run) => run.trim())
      .sort((a, b) => b.length - a.length);
    return longest === '' ? [] : [{ kind: 'words', text: longest, quoted: true, at: nowhere }];
  });
  return writeSearch({ kind: 'all', parts: [...parts, ...own], at: search.at });
}
