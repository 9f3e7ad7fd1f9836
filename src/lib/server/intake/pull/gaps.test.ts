import { expect } from 'chai';
import * as fc from 'fast-check';
import { withDatabase } from '../../../../../tests/support/database';
import { hour, minute, times, type Instant } from '../../../core/time';
import { insertAccount } from '../../inventory/accounts';
import { addGap, allGaps, fillGap, pieceOf, type Gap } from './gaps';

describe('gaps', () => {
  const fixture = withDatabase();
  let accountId: number;

  before(async () => {
    ({ id: accountId } = await insertAccount(fixture.db, {
      name: 'one',
      provider: 'levante',
      endpoint: 'x',
      keyId: 'x',
      sealedSecret: Buffer.alloc(0),
      createdAt: 0 as Instant,
      createdBy: 'test',
      historyFrom: 0 as Instant
    }));
  });

  const gap = (kind: Gap['kind'], from: number, to: number, service = 'machines'): Gap => ({
    accountId,
    service,
    kind,
    from: from as Instant,
    to: to as Instant
  });

  it('are filled by pieces that lie end to end, none too long, cut at whole hours', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('history' as const, 'outage' as const),
        fc.integer({ min: 0, max: 2000 }),
        fc.integer({ min: 1, max: 3000 }),
        fc.constantFrom(1, 4, 24),
        (kind, start, length, hours) => {
          let [from, to] = [start * minute, (start + length) * minute];
          const [whole, longest] = [to - from, times(hours, hour)];
          let filled = 0;
          while (from < to) {
            const piece = pieceOf({ kind, from: from as Instant, to: to as Instant }, longest);
            expect(piece.from).to.be.at.least(from);
            expect(piece.to).to.be.at.most(to).and.above(piece.from);
            expect(piece.to - piece.from).to.be.at.most(longest);
            filled += piece.to - piece.from;
            const edge = kind === 'history' ? piece.from : piece.to;
            expect(kind === 'history' ? piece.to : piece.from).to.equal(kind === 'history' ? to : from);
            if (kind === 'history') to = edge;
            else from = edge;
            if (from < to) expect(edge % hour).to.equal(0);
          }
          expect(filled).to.equal(whole);
        }
      )
    );
  });

  it('come in order: outages oldest first, then history newest first', async () => {
    const [day1, day2, day3] = [24 * hour, 48 * hour, 72 * hour];
    await addGap(fixture.db, gap('history', 0, day1));
    await addGap(fixture.db, gap('history', 0, day3, 'databases'));
    await addGap(fixture.db, gap('outage', day2, day3));
    await addGap(fixture.db, gap('outage', day1, day2, 'databases'));
    await addGap(fixture.db, gap('outage', day2, day2, 'queues')); // nothing in it
    const order = async () =>
      (await allGaps(fixture.db)).map(({ kind, service, from, to }) => [kind, service, from, to]);
    expect(await order()).to.deep.equal([
      ['outage', 'databases', day1, day2],
      ['outage', 'machines', day2, day3],
      ['history', 'databases', 0, day3],
      ['history', 'machines', 0, day1]
    ]);
    await fillGap(fixture.db, gap('outage', day1, day2, 'databases'), {
      from: day1 as Instant,
      to: (day1 + hour) as Instant
    });
    await fillGap(fixture.db, gap('outage', day2, day3), { from: day2 as Instant, to: day3 as Instant });
    await fillGap(fixture.db, gap('history', 0, day3, 'databases'), { from: day2 as Instant, to: day3 as Instant });
    expect(await order()).to.deep.equal([
      ['outage', 'databases', day1 + hour, day2],
      ['history', 'databases', 0, day2],
      ['history', 'machines', 0, day1]
    ]);
  });

  it('that is told again grows, and never shrinks', async () => {
    await addGap(fixture.db, gap('outage', 5, 10, 'caches'));
    await addGap(fixture.db, gap('outage', 5, 20, 'caches'));
    await addGap(fixture.db, gap('outage', 5, 15, 'caches'));
    expect((await allGaps(fixture.db)).filter(({ service }) => service === 'caches').map(({ to }) => to)).to.deep.equal(
      [20]
    );
  });
});
