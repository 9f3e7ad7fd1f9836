import { readSearch } from '../logs/search/read';
import type { Search } from '../logs/search/tree';
import { narrowsLines } from './lines-row';
import type { LabelCondition } from './conditions';

/**
 * What a row of lines looks for, its conditions among it, read. Apart from the rest of signals: what only shows them does not load what reads searches.
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
