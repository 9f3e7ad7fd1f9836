import fc from 'fast-check';
import type { FieldValue, SearchedLine } from '../../src/lib/core/logs';
import type { Comparison, Search } from '../../src/lib/core/logs/search/tree';

/** A line with some fields, as a search looks at it. */
export const line = (text: string, fields: Record<string, FieldValue> = {}, severity = 9): SearchedLine => ({
  ...{ text, severity },
  field: (name) => (Object.hasOwn(fields, name) ? fields[name] : undefined)
});

/** A tree without the places of its parts. */
export const bare = (search: Search): unknown =>
  JSON.parse(JSON.stringify(search, (key, value: unknown) => (key === 'at' ? undefined : value)));

const term = fc.constantFrom('killed', 'memory', 'out', '4127', 'mem*', '*', 'e*d');
const field = fc.constantFrom('service', 'took', 'my field', 'or');
const place = { at: [0, 0] as const };

/** Searches of any kind. */
export const anySearch: fc.Arbitrary<Search> = fc.letrec<{ search: Search }>((tie) => ({
  search: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    fc
      .record({ text: term, quoted: fc.constant(false) })
      .map((words): Search => ({ kind: 'words', ...words, ...place })),
    fc
      .constantFrom('out of memory', 'killed "now"', 'and')
      .map((text): Search => ({ kind: 'words', text, quoted: true, ...place })),
    fc
      .record({
        field,
        operator: fc.constantFrom<Comparison>('=', '!=', '<', '<=', '>', '>='),
        value: fc.constantFrom('3', '18.5', '-1e3')
      })
      .map((one): Search => ({ kind: 'compare', ...one, quoted: false, ...place })),
    fc.record({ field, value: fc.constantFrom('clu*', 'a b', 'not') }).map(({ value, ...one }): Search => ({
      ...{ kind: 'compare', operator: '=', value, quoted: value !== 'clu*' },
      ...one,
      ...place
    })),
    fc
      .record({ field, pattern: fc.constantFrom('a/b', 'x+', '\\d') })
      .map((one): Search => ({ kind: 'matches', ...one, ...place })),
    field.map((one): Search => ({ kind: 'has', field: one, ...place })),
    tie('search').map((of): Search => ({ kind: 'not', of, ...place })),
    fc.array(tie('search'), { minLength: 2, maxLength: 3 }).map((parts): Search => ({ kind: 'all', parts, ...place })),
    fc.array(tie('search'), { minLength: 2, maxLength: 3 }).map((parts): Search => ({ kind: 'any', parts, ...place }))
  )
})).search;
