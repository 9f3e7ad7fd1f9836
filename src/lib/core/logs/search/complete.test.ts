import { expect } from 'chai';
import fc from 'fast-check';
import { anySearch } from '../../../../../tests/support/searches';
import { clausesOf, complete, completing, completions } from './complete';
import { matcherOf } from './match';
import { readSearch } from './read';
import { writeSearch } from './write';

describe('completing a search', () => {
  const at = (text: string) => completing(text.replace('|', ''), text.indexOf('|'));

  it('knows whether a field or a value is being typed, and which', () => {
    expect(at('sev|')).to.deep.equal({ kind: 'field', field: '', typed: 'sev', from: 0, to: 3 });
    expect(at('killed  |')).to.include({ kind: 'field', typed: '', from: 8 });
    expect(at('service = clu|')).to.deep.equal({ kind: 'value', field: 'service', typed: 'clu', from: 10, to: 13 });
    expect(at('severity >=|')).to.include({ kind: 'value', field: 'severity', typed: '' });
    expect(at('"user id" != |')).to.include({ kind: 'value', field: 'user id' });
    expect(at('not (no|de = n2)')).to.deep.equal({ kind: 'field', field: '', typed: 'no', from: 5, to: 9 });
  });

  it('offers nothing within quotes and patterns', () => {
    for (const text of ['"out of|', 'text matches /a|', 'a "b \\" c|']) expect(at(text), text).to.equal(null);
  });

  it('offers what begins so before what has it in it, and nothing that stands there already', () => {
    const field = at('na|')!;
    expect(completions(field, ['username', 'name', 'node'])).to.deep.equal(['name', 'username']);
    expect(completions(at('severity = er|')!, [])).to.deep.equal(['error']);
    expect(completions(at('severity = error|')!, [])).to.deep.equal([]);
    expect(completions(at('|')!, [])[0]).to.equal('severity');
  });

  it('writes what is chosen so that it is read as that', () => {
    const done = (text: string, chosen: string) => {
      const { text: after, caret } = complete(text.replace('|', ''), at(text)!, chosen);
      return `${after.slice(0, caret)}|${after.slice(caret)}`;
    };
    expect(done('sev|', 'severity')).to.equal('severity |');
    expect(done('stream = har|', 'harbour n1')).to.equal('stream = "harbour n1" |');
    expect(done('stream = har| killed', 'harbour-n1')).to.equal('stream = harbour-n1 |killed');
    expect(done('|', 'or')).to.equal('or |');
  });
});

describe('clauses of a search', () => {
  it('are what stands beside each other', () => {
    expect(clausesOf('killed or "out of memory"  service = clusters not a')).to.deep.equal([
      {
        text: 'killed or "out of memory"',
        without: 'service = clusters not a',
        turned: 'not (killed or "out of memory") service = clusters not a',
        isTurned: false
      },
      {
        text: 'service = clusters',
        without: 'killed or "out of memory" not a',
        turned: 'killed or "out of memory" not service = clusters not a',
        isTurned: false
      },
      {
        text: 'not a',
        without: 'killed or "out of memory" service = clusters',
        turned: 'killed or "out of memory" service = clusters a',
        isTurned: true
      }
    ]);
    expect(clausesOf('a (')).to.deep.equal([]);
    expect(clausesOf(' ')).to.deep.equal([]);
  });

  it('taken away or turned round leave a search that says so', () => {
    const line = (text: string) => ({
      ...{ text, severity: 13 },
      field: (name: string) => (name === 'node' ? 'n2' : undefined)
    });
    const texts = ['', 'order paid', 'out of memory', 'killed'].map(line);
    fc.assert(
      fc.property(fc.array(anySearch, { minLength: 1, maxLength: 3 }), (parts) => {
        const text = writeSearch({ kind: 'all', parts, at: [0, 0] });
        for (const { text: clause, without, turned } of clausesOf(text))
          for (const one of texts) {
            const holds = (search: string) => matcherOf(readSearch(search)).matches(one);
            expect(holds(text)).to.equal(holds(clause) && holds(without));
            expect(holds(turned)).to.equal(!holds(clause) && holds(without));
          }
      }),
      { numRuns: 300 }
    );
  });
});
