import { expect } from 'chai';
import { withDatabase } from '../../../../../tests/support/database';
import { after, gridOver, instant, minute, range, times, type Instant } from '../../../core/time';
import { insertMark } from '../../marks/marks';
import type { Counted } from '../../logs/log-counts';
import { countLineRows } from './line-rows';

const from = instant(Date.UTC(2026, 4, 4, 12));
const grid = gridOver(range(from, after(from, times(6, minute))), minute);

describe('what is said of rows of lines', () => {
  const fixture = withDatabase();

  /** Notes of a row that wants the numbers of a field. */
  async function notesOf(
    cells: readonly number[],
    lacking: readonly number[],
    unmatched = 0,
    zone = 'UTC'
  ): Promise<string[]> {
    const counted: Counted = {
      groups: [{ values: [], cells: Float64Array.from(cells), lines: 1 }],
      ...{ lines: 1, unmatched, lacking: Float64Array.from(lacking), since: 0, isPartial: false }
    };
    const row = {
      name: 'a',
      lines: 'served',
      where: [],
      by: [],
      of: { field: 'took', statistic: 'avg' as const, unit: 's' }
    };
    const { notes } = await countLineRows(
      fixture.db,
      { counted: () => Promise.resolve(counted) },
      [{ row: { name: 'a', kind: 'lines', lines: row, index: 0 }, grid, until: grid.start, accounts: null }],
      performance.now() + 1000,
      zone
    );
    return notes.map(({ text }) => text);
  }
  const mark = (text: string, at: Instant) =>
    insertMark(
      fixture.db,
      { text, from: new Date(at).toISOString() },
      { name: 'deploy-robot', source: 'program' },
      after(from, minute)
    );

  it('a field that vanished is named with its time, and what was deployed before it', async () => {
    await mark('quote 2.4 deployed', after(from, times(2, minute)));
    await mark('long before', instant(from - 3 * 3_600_000));
    expect(await notesOf([1, 2, 3, NaN, NaN, NaN], [0, 0, 1, 12, 9, 0], 20)).to.deep.equal([
      'No line has the field took any more since 2026-05-04 12:03:00 +00:00: 21 lines came without it. Before it: quote 2.4 deployed, at 2026-05-04 12:02:00 +00:00.',
      '20 lines do not match the pattern and are left out.'
    ]);
    const [inRome] = await notesOf([1, 2, 3, NaN, NaN, NaN], [0, 0, 1, 12, 9, 0], 0, 'Europe/Rome');
    expect(inRome).to.contain('since 2026-05-04 14:03:00 +02:00');
  });

  it('one that is still there, or was never, is not', async () => {
    expect(await notesOf([1, 2, 3, NaN, NaN, 4], [0, 0, 1, 12, 9, 0])).to.deep.equal([]);
    expect(await notesOf([NaN, NaN, NaN, NaN, NaN, NaN], [9, 9, 9, 9, 9, 9])).to.deep.equal([]);
  });
});
