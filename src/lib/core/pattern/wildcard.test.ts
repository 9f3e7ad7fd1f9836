import { expect } from 'chai';
import fc from 'fast-check';
import { matchesAny, wildcard } from './index';

/** By trying each way: slow, and obviously right. */
function matches(pattern: string, text: string): boolean {
  const [first, rest] = [pattern[0], pattern.slice(1)];
  if (first === undefined) return text === '';
  if (first === '*') return matches(rest, text) || (text !== '' && matches(pattern, text.slice(1)));
  return text !== '' && (first === '?' || first === text[0]) && matches(rest, text.slice(1));
}

describe('patterns with * and ?', () => {
  it('match what trying each way matches', () => {
    const letters = fc.constantFrom('a', 'b', '.', '\n', '*', '?');
    fc.assert(
      fc.property(
        fc.string({ unit: letters, maxLength: 7 }),
        fc.string({ unit: fc.constantFrom('a', 'b', '.', '\n'), maxLength: 7 }),
        (pattern, text) => {
          expect(wildcard(pattern)(text), JSON.stringify([pattern, text])).to.equal(matches(pattern, text));
        }
      ),
      { numRuns: 2000 }
    );
  });

  it('take nothing else for special', () => {
    for (const special of ['[ab]', '{a,b}', '(a|b)', '!a', 'a+', '\\d', '^a$', '@(a)']) {
      expect(matchesAny([special], special), special).to.equal(true);
      expect(matchesAny([special], 'a'), special).to.equal(false);
    }
  });

  it('take steps in proportion to the text, also those that look for many ways at once', () => {
    // A matcher that tries each way takes 2^40 steps here and never ends.
    for (const pattern of ['*?*?*?*?*?*?*?*?*?*?*Z', '*a*a*a*a*a*a*a*a*a*aZ'])
      expect(wildcard(pattern)('a'.repeat(2000)), pattern).to.equal(false);
  });
});
