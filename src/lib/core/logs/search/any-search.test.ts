import { expect } from 'chai';
import fc from 'fast-check';
import { isRefused } from '../../problem/problem';
import { matcherOf, type FieldValue, type SearchedLine } from './match';
import { readSearch } from './read';
import type { Search } from './tree';
import { writeSearch } from './write';

import { anySearch, bare, line } from '../../../../../tests/support/searches';

/** Parts of the same kind within each other as one: how a tree is read that was written. */
function flat(search: Search): Search {
  if (search.kind === 'not') return { ...search, of: flat(search.of) };
  if (search.kind !== 'all' && search.kind !== 'any') return search;
  const { kind } = search;
  return { ...search, parts: search.parts.map(flat).flatMap((part) => (part.kind === kind ? part.parts : [part])) };
}

/** Inputs that are tried. A campaign sets BUSSOLA_INPUTS. */
const inputs = Number(process.env['BUSSOLA_INPUTS'] ?? 50_000);

describe('searches of lines, of whatever shape', () => {
  it('are read as they are written', () => {
    fc.assert(
      fc.property(anySearch, (search) => {
        expect(bare(readSearch(writeSearch(search))), writeSearch(search)).to.deep.equal(bare(flat(search)));
      }),
      { numRuns: 1000 }
    );
  });

  it('find what a slow reference finds', () => {
    const words = fc.constantFrom('killed', 'Memory', 'out', 'of', '4127', 'MEMORY', 'ended', '-', ': ', ' ', '_');
    const fields = fc.record(
      {
        service: fc.constantFrom<FieldValue>('clusters', 'Clue', 3),
        took: fc.constantFrom<FieldValue>(3, 18.5, '18.50', -1000, true),
        'my field': fc.constantFrom<FieldValue>('a b', 'xx', 'a/b')
      },
      { requiredKeys: [] }
    );
    fc.assert(
      fc.property(anySearch, fc.array(words, { maxLength: 8 }), fields, (search, parts, found) => {
        const seen = line(parts.join(''), found);
        expect(matcherOf(search).matches(seen), `${writeSearch(search)} in ${seen.text}`).to.equal(slow(search, seen));
      }),
      { numRuns: 3000 }
    );
  });

  it('never throw anything but a refusal with a place, whatever is typed', () => {
    const piece = fc.constantFrom(
      ...[
        'and',
        'or',
        'not',
        'has',
        'matches',
        '(',
        ')',
        '"',
        '/',
        '\\',
        '=',
        '!=',
        '<',
        '≥',
        ' ',
        '*',
        'a',
        'severity',
        '5'
      ],
      ...['\0', '\n', '\u202e', '\ud800', '🚢', '{', '/a/', '"b"', '!', '--']
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 25 }), (pieces) => {
        const text = pieces.join('');
        try {
          const search = readSearch(text);
          matcherOf(search).matches(line('a 5 b', { a: 5 }));
          expect(bare(readSearch(writeSearch(search)))).to.deep.equal(bare(search));
        } catch (error) {
          if (!isRefused(error, 'search-invalid')) throw error;
          const [from, to] = error.place ?? [-1, -1];
          expect(from).to.be.within(0, text.length);
          expect(to).to.be.within(from, text.length);
        }
      }),
      { numRuns: inputs }
    );
  });

  it('reads or refuses in words whatever becomes of a search by mistakes of typing', () => {
    const edit = fc.record({
      place: fc.nat({ max: 200 }),
      take: fc.nat({ max: 3 }),
      put: fc.constantFrom('', '', '"', '(', ')', '/', '*', ' ', '\\', '=', 'not ', '\u0000', '🚢')
    });
    fc.assert(
      fc.property(anySearch, fc.array(edit, { minLength: 1, maxLength: 4 }), (search, edits) => {
        const text = edits.reduce((now, { place, take, put }) => {
          const at = place % (now.length + 1);
          return now.slice(0, at) + put + now.slice(at + take);
        }, writeSearch(search));
        try {
          matcherOf(readSearch(text)).matches(line('a 5 b', { a: 5 }));
        } catch (error) {
          if (!isRefused(error, 'search-invalid')) throw error;
        }
      }),
      { numRuns: inputs }
    );
  });
});

/** Whether a search finds a line, by trying everything. */
function slow(search: Search, seen: SearchedLine): boolean {
  const like = (pattern: string, text: string): boolean => {
    const [first, rest] = [pattern[0], pattern.slice(1)];
    if (first === undefined) return text === '';
    if (first === '*') return like(rest, text) || (text !== '' && like(pattern, text.slice(1)));
    return text !== '' && first === text[0] && like(rest, text.slice(1));
  };
  switch (search.kind) {
    case 'all':
      return search.parts.every((part) => slow(part, seen));
    case 'any':
      return search.parts.some((part) => slow(part, seen));
    case 'not':
      return !slow(search.of, seen);
    case 'words': {
      const split = (text: string, letters: RegExp) =>
        text
          .toLowerCase()
          .split(letters)
          .filter((word) => word !== '');
      const wanted = split(search.text, search.quoted ? /[^a-z0-9]/ : /[^a-z0-9*]/);
      const found = split(seen.text, /[^a-z0-9]/);
      return found.some((_, from) =>
        wanted.every((word, index) => {
          const one = found[from + index];
          return one !== undefined && (search.quoted ? one === word : like(word, one));
        })
      );
    }
    case 'has':
      return seen.field(search.field) !== undefined;
    case 'matches': {
      const value = search.field === 'text' ? seen.text : seen.field(search.field);
      return value !== undefined && new RegExp(search.pattern).test(String(value));
    }
    case 'compare': {
      const value = seen.field(search.field);
      if (value === undefined) return false;
      const [a, b] = [typeof value === 'boolean' ? NaN : Number(value), Number(search.value)];
      const texts = [search.value.toLowerCase(), String(value).toLowerCase()] as const;
      const same = (!search.quoted && a === b) || (search.quoted ? texts[0] === texts[1] : like(...texts));
      return { '=': same, '!=': !same, '<': a < b, '<=': a <= b, '>': a > b, '>=': a >= b }[search.operator];
    }
    default:
      throw new RangeError(String(search satisfies never));
  }
}
