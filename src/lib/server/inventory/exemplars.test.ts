import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import type { Instant } from '../../core/time';
import { forgetExemplars, saveExemplars } from './exemplars';

describe('exemplars', () => {
  const fixture = withDatabase();
  const at = (seconds: number) => (seconds * 1000) as Instant;
  const one = (seconds: number, value: number, trace: string) => ({ at: at(seconds), value, labels: { trace } });
  const kept = async () =>
    (
      await fixture.db.rows<{ series: number; trace: string }>(
        `select series_id as series, labels->>'trace' as trace from exemplars order by 1, cell`
      )
    ).map(({ series, trace }) => `${series} ${trace}`);

  before(() =>
    fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from) values ('one', 'maestro', 'x', 'x', '', 0, 'x', 0)`
    )
  );

  it('are the largest of every five minutes, however they come', async () => {
    await saveExemplars(fixture.db, 1, [
      { seriesId: 1, exemplars: [one(10, 3, 'a'), one(20, 7, 'b'), one(30, 5, 'c'), one(310, 1, 'd')] },
      { seriesId: 2, exemplars: [one(15, 1, 'e')] },
      { seriesId: 3, exemplars: [] }
    ]);
    await saveExemplars(fixture.db, 1, [
      { seriesId: 1, exemplars: [one(40, 6, 'f'), one(320, 2, 'g')] },
      { seriesId: 2, exemplars: [one(15, 1, 'again')] }
    ]);
    expect(await kept()).to.deep.equal(['1 b', '1 g', '2 again']);
  });

  it('that say more than they may are left out', async () => {
    await saveExemplars(fixture.db, 1, [{ seriesId: 9, exemplars: [one(10, 3, 'x'.repeat(300))] }]);
    expect(await kept()).to.have.length(3);
  });

  it('are forgotten by age', async () => {
    await forgetExemplars(fixture.db, at(300));
    expect(await kept()).to.deep.equal(['1 g']);
  });
});
