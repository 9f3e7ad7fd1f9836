import { expect } from 'chai';
import { isRefused } from '../../problem/problem';
import { noOrigin } from '../line';
import { admit, type Admission } from './admission';
import { readJsonLogs } from './json-lines';

const now = Date.UTC(2026, 4, 4, 8);
const lines = [
  { level: 'debug', msg: 'asks the bank', 'service.name': 'checkout', namespace: 'booking' },
  { level: 'info', msg: 'container 7 answers its check', 'host.name': 'harbour-n1' },
  { level: 'warn', msg: 'ticket refused', gate: 4, 'k8s.namespace.name': 'gates' },
  { msg: 'says no severity', namespace: 'public' },
  { level: 'error', msg: 'payment declined', order: 88 }
];
const batches = readJsonLogs(lines.map((one) => JSON.stringify(one)).join('\n'), now).batches;
const everything: Admission = { from: 1, namespaces: [], leaveOut: '' };

/** What is collected by a plan, and how many lines are left out for each reason. */
function admitted(plan: Partial<Admission>) {
  const { batches: kept, leftOut } = admit({ ...everything, ...plan }, batches);
  const texts = kept.flatMap((batch) => batch.lines.map(({ text }) => text)).sort();
  return { texts, left: [leftOut.severity, leftOut.namespace, leftOut.search] };
}

describe('which lines are collected', () => {
  it('are all of them, as they came, where a plan leaves none out', () => {
    expect(admit(everything, batches).batches).to.deep.equal(batches);
    expect(admitted({}).left).to.deep.equal([0, 0, 0]);
  });

  it('are those of a severity and worse; what says none is collected', () => {
    expect(admitted({ from: 13 })).to.deep.equal({
      texts: ['payment declined', 'says no severity', 'ticket refused'],
      left: [2, 0, 0]
    });
  });

  it('leave out namespaces under any of the names by which programs say them', () => {
    expect(admitted({ namespaces: ['book*', 'gates'] })).to.deep.equal({
      texts: ['container 7 answers its check', 'payment declined', 'says no severity'],
      left: [0, 2, 0]
    });
  });

  it('leave out what a search finds: by words, fields, and what wrote it', () => {
    for (const [leaveOut, gone] of [
      ['"answers its check"', 'container 7 answers its check'],
      ['gate = 4', 'ticket refused'],
      ['order > 80 severity >= error', 'payment declined'],
      ['service.name = checkout', 'asks the bank']
    ] as const) {
      const { texts, left } = admitted({ leaveOut });
      expect(left, leaveOut).to.deep.equal([0, 0, 1]);
      expect(texts, leaveOut).to.have.length(4).and.not.to.include(gone);
    }
  });

  it('count a line once, for the first reason', () => {
    expect(admitted({ from: 24, namespaces: ['*'], leaveOut: 'not nowhere' })).to.deep.equal({
      texts: [],
      left: [4, 1, 0]
    });
  });

  it('are not guessed where the search cannot be read', () => {
    let refused: unknown = null;
    try {
      admit({ ...everything, leaveOut: 'severity = =' }, [{ origin: noOrigin, lines: [] }]);
    } catch (error) {
      refused = error;
    }
    expect(isRefused(refused, 'search-invalid')).to.equal(true);
  });
});
