import { expect } from 'chai';
import { isRefused } from '../../problem/problem';
import { matcherOf } from './match';
import { mostSearchCharacters } from './limits';
import { readSearch } from './read';
import { fieldsIn, partsIn } from './tree';
import { writeSearch } from './write';

import { bare, line } from '../../../../../tests/support/searches';
const finds = (search: string, ...args: Parameters<typeof line>) =>
  matcherOf(readSearch(search)).matches(line(...args));

const refusalOf = (text: string) => {
  try {
    readSearch(text);
  } catch (error) {
    if (isRefused(error, 'search-invalid')) return error;
    throw error;
  }
  throw new Error(`${text} can be read`);
};

describe('a search of lines', () => {
  it('is clauses beside each other, which all hold; `or` binds tighter than that, `and` tighter still', () => {
    const written = (text: string) => writeSearch(readSearch(text));
    expect(written('killed or "out of memory"   service = clusters   severity ≥ warn')).to.equal(
      'killed or "out of memory" service = clusters severity >= warn'
    );
    const tree = readSearch('killed or "out of memory" service = clusters');
    expect(tree.kind === 'all' && tree.parts.map(({ kind }) => kind)).to.deep.equal(['any', 'compare']);
    expect(bare(readSearch('a and b or c'))).to.deep.equal(bare(readSearch('(a and b) or c')));
    expect(bare(readSearch('a b'))).to.deep.equal(bare(readSearch('a and b')));
    expect(bare(readSearch('NOT a And b'))).to.deep.equal(bare(readSearch('(not a) and b')));
    expect(bare(readSearch('((a))'))).to.deep.equal(bare(readSearch('a')));
    expect(readSearch('  ')).to.deep.include({ kind: 'all', parts: [] });
    expect([partsIn(readSearch('a or not b')), fieldsIn(readSearch('has a (b = 1 or a = 2)'))]).to.deep.equal([
      4,
      ['a', 'b']
    ]);
  });

  it('finds words in any letter case, one after the other where a dash joins them', () => {
    const text = 'Memory cgroup out of memory: Killed process 4127 (seatmap_2)';
    for (const search of [
      'killed',
      'KILLED',
      '"out of memory"',
      'out-of-memory',
      'seatmap',
      'seatmap_2',
      'kill*',
      '*group',
      '4127',
      'c*p'
    ])
      expect(finds(search, text), search).to.equal(true);
    for (const search of ['kill', 'group', '"memory out"', '"kill*"', '412', 'seat', 'memory-of'])
      expect(finds(search, text), search).to.equal(false);
    expect(finds('ÄRGER', 'so ein Ärger'), 'letters of any language').to.equal(true);
    expect(finds('مرفأ', 'رسالة من مرفأ'), 'in any direction').to.equal(true);
  });

  it('finds words whatever letters they are of, also those that become others in small letters', () => {
    // The sign of kelvin is a k; a capital sigma becomes another letter at the end of a word than within it.
    expect(finds('kelvin', 'at 300 \u212aelvin')).to.equal(true);
    for (const text of ['ΟΔΟΣ', "ΟΔΟΣ'Α", 'ΟΔΟΣ-Α', 'οδος']) expect(finds('ΟΔΟΣ', text), text).to.equal(true);
    expect(finds('"straße 7"', 'STRASSE 7')).to.equal(false);
    expect(finds('"straße 7"', 'Straße 7')).to.equal(true);
    expect(finds('seat*', 'seatmap 12')).to.equal(true);
  });

  it('asks fields by text, by number, by pattern, and whether they are there', () => {
    const fields = {
      service: 'Clusters',
      'http.status': 503,
      took: '18.5',
      ok: false,
      big: 2n ** 60n,
      path: '/api/v1/fares?x=1'
    };
    const yes = [
      'service = clusters',
      'service = "CLUSTERS"',
      'service = clu*',
      'http.status = 503',
      'http.status >= 500',
      'took < 20'
    ];
    const no = [
      'service = cluster',
      'service = "clu*"',
      'service != clusters',
      'took > 18.5',
      'service < 3',
      'missing != 3'
    ];
    yes.push(
      'took = 18.50',
      'ok = false',
      'big > 1e18',
      'has took',
      'not missing = 3',
      'path = /api/v1/fares?x=1'.replace('?x=1', '*')
    );
    no.push('has missing', 'missing = *', 'missing < 3', 'path matches /^fares/', 'has toString');
    yes.push('path matches /fares\\?x=\\d/', 'text matches /(?i)LATE$/', 'path matches /api\\/v1/');
    for (const search of yes) expect(finds(search, 'too late', fields), search).to.equal(true);
    for (const search of no) expect(finds(search, 'too late', fields), search).to.equal(false);
  });

  it('knows severities by their names and numbers', () => {
    const at = (search: string) =>
      Array.from({ length: 25 }, (_, severity) => severity).filter((one) => finds(search, '', {}, one));
    expect(at('severity = error')).to.deep.equal([17, 18, 19, 20]);
    expect(at('severity = 18')).to.deep.equal([18]);
    expect(at('severity > error')).to.deep.equal([21, 22, 23, 24]);
    expect(at('severity >= Warn')).to.deep.equal([13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24]);
    expect(at('severity <= debug')).to.deep.equal([1, 2, 3, 4, 5, 6, 7, 8]);
    expect(at('severity < debug')).to.deep.equal([1, 2, 3, 4]);
    expect(at('severity != info').length, 'none is no severity').to.equal(20);
    expect(at('has severity')).not.to.include(0);
  });

  it('marks what it found, and nothing of what it leaves out', () => {
    const marked = (search: string, text: string) =>
      matcherOf(readSearch(search))
        .marks(text)
        .map(([from, to]) => text.slice(from, to));
    const text = 'memory cgroup out of memory: killed process 4127';
    expect(marked('killed or "out of memory" not process', text)).to.deep.equal(['out of memory', 'killed']);
    expect(marked('memory', text)).to.deep.equal(['memory', 'memory']);
    expect(marked('"of memory" memory text matches /m[a-z]+:/', text)).to.deep.equal(['memory', 'of memory:']);
    expect(marked('not (not killed)', text)).to.deep.equal(['killed']);
    expect(marked('text matches /x*/', text), 'what matches nothing').to.deep.equal([]);
  });

  it('that cannot be read names the place, and says what to do', () => {
    const cases: [string, string, RegExp][] = [
      ['a and', '', /ends too early/],
      ['(a', '', /ends too early/],
      ['a)', ')', /“\)” is not expected/],
      ['a = = b', '=', /“=” is not expected/],
      ['"never ends', '"never ends', /quotes that begin here do not end/],
      ['3 matches found', 'found', /After “matches” comes a pattern/],
      ['text matches /(/', '/(/', /This pattern cannot be read: missing closing/],
      ['text matches /(?=a)/', '/(?=a)/', /This pattern cannot be read/],
      ['took > soon', 'soon', /“soon” is no number/],
      ['severity = loud', 'loud', /There is no severity “loud”/],
      ['and a', 'and', /to look for the word, put it in quotes/],
      ['a -- b', '--', /There is no word in --/],
      ['!= 3', '!=', /is not expected/]
    ];
    for (const [text, place, says] of cases) {
      const refused = refusalOf(text);
      expect(refused.message, text).to.match(says);
      expect(text.slice(...(refused.place ?? [0, 0])).trim(), text).to.equal(place);
    }
    expect(refusalOf('a '.repeat(mostSearchCharacters)).message).to.match(/at most 2000 are read/);
    expect(refusalOf('('.repeat(500) + 'a').message).to.match(/deeper than 40/);
    expect(refusalOf(`${'not '.repeat(300)}a`).message).to.match(/deeper than 40/);
  });
});
