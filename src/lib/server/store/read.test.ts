import { expect } from 'chai';
import { pointsOfLength, type SummaryPoints } from '../../core/series';
import { instant, range } from '../../core/time';
import { readTogether, type Sources } from './read';

/** A series with one sample, told by its value. */
function oneSample(value: number): SummaryPoints {
  const points = pointsOfLength(1);
  points.at[0] = 60_000;
  points.sum[0] = points.min[0] = points.max[0] = value;
  points.count[0] = 1;
  return points;
}

describe('points of several spans, read together', () => {
  /** A store of nothing but unsealed samples, which change with every reading of a series. */
  function store(generations: number[]) {
    const counted = { readings: 0, settled: 0 };
    const sources = {
      cache: { read: () => Promise.resolve([]) },
      spans: new Map(),
      head: { oldest: () => null, pointsOf: () => oneSample(++counted.readings) }
    } as unknown as Sources;
    const settled = () => Promise.resolve(generations[Math.min(counted.settled++, generations.length - 1)] as number);
    return { counted, sources: () => sources, settled };
  }
  const span = range(instant(0), instant(120_000));
  const wanted = (seriesIds: number[]) => ({ seriesIds, range: span, resolution: 0 });
  const valuesOf = (all: SummaryPoints[][]) => all.map((of) => of.map(({ sum }) => sum[0]));

  it('are one list for each span, in order, for which the store settles twice in all', async () => {
    const { counted, sources, settled } = store([7]);
    const all = await readTogether([wanted([1, 2]), wanted([3]), wanted([])], sources, settled);
    expect(valuesOf(all)).to.deep.equal([[1, 2], [3], []]);
    expect(counted).to.deep.equal({ readings: 3, settled: 2 });
  });

  it('are all read again when samples left the head meanwhile: half of one moment and half of another is nothing', async () => {
    const { counted, sources, settled } = store([7, 8, 8, 8]);
    const all = await readTogether([wanted([1]), wanted([2])], sources, settled);
    expect(valuesOf(all)).to.deep.equal([[3], [4]]);
    expect(counted).to.deep.equal({ readings: 4, settled: 4 });
  });

  it('are nothing of no span', async () => {
    const { sources, settled } = store([7]);
    expect(await readTogether([], sources, settled)).to.deep.equal([]);
  });
});
