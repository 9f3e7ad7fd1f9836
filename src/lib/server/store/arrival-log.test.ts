import { expect } from 'chai';
import { pointsOfLength } from '../../core/series';
import { instant, minute, times, type Grid, type Instant } from '../../core/time';
import { ArrivalLog } from './arrival-log';

describe('when samples came', () => {
  const start = instant(Date.UTC(2026, 4, 4, 3));
  const at = (minutes: number) => (start + times(1, minute) * minutes) as Instant;
  const block = (seriesId: number, ...minutes: number[]) => {
    const points = pointsOfLength(minutes.length);
    for (const [i, one] of minutes.entries()) points.at[i] = at(one);
    return { seriesId, points };
  };
  const grid: Grid = { start, step: minute, count: 4 };

  it('is known of each cell: the newest of its samples counts', () => {
    const log = new ArrivalLog();
    log.note(1, at(2), [block(7, 0, 1), block(8, 1)]);
    log.note(2, at(5), [block(7, 1, 3)]);
    expect(log.of(7, grid)).to.deep.equal([at(2), at(5), at(5), at(5)]);
    expect(log.of(8, grid)).to.deep.equal([null, at(2), null, null]);
    expect(log.of(9, grid)).to.deep.equal([null, null, null, null]);
  });

  it('is not counted twice when the journal is read once more, and an empty batch is nothing', () => {
    const log = new ArrivalLog();
    log.note(1, at(2), [block(7, 0)]);
    log.note(1, at(9), [block(7, 0)]);
    log.note(2, at(3), [block(7)]);
    expect(log.of(7, grid)[0]).to.equal(at(2));
  });

  it('is forgotten after ten minutes', () => {
    const log = new ArrivalLog();
    log.note(1, at(1), [block(7, 0)]);
    log.note(2, at(10), [block(7, 1)]);
    expect(log.of(7, grid)).to.deep.equal([at(1), at(10), null, null]);
    log.note(3, at(11), [block(7, 2)]);
    expect(log.of(7, grid)).to.deep.equal([null, at(10), at(11), null]);
  });

  it('of a batch with months of history, the last of them is not remembered', () => {
    const log = new ArrivalLog();
    const months = 60 * 24 * 60;
    log.note(1, at(months + 1), [block(7, 0, months)]);
    expect(log.of(7, { ...grid, start: at(months) })).to.deep.equal([null, null, null, null]);
    expect(log.of(7, grid)[0]).to.equal(at(months + 1));
  });
});
