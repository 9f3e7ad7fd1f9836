import { expect } from 'chai';
import { day, instant, type Instant } from '../../core/time';
import { growthChart, type GrowthPicture } from './growth-chart';

const days = (from: number, count: number): Instant[] =>
  Array.from({ length: count }, (_, index) => instant((from + index) * day));
const picture: GrowthPicture = {
  ...{ starts: days(0, 5), values: [null, 10, 12, null, 16], ahead: days(5, 3) },
  ...{ expected: [18, 20, 22], low: [15, 16, 17], high: [21, 24, 27], limit: null },
  dayWords: (at) => `day ${at / day}`,
  valueWords: (value) => `${value} GB`
};
interface Drawn {
  readonly at: Float64Array;
  readonly values: Float64Array;
  readonly floor: Float64Array | null;
  readonly dash: readonly number[];
  readonly fill: string | null;
}
const coursesOf = (of: GrowthPicture): readonly Drawn[] =>
  (growthChart(of, (name) => `<${name}>`).data.datasets[0] as unknown as { courses: Drawn[] }).courses;
const xOf = (of: GrowthPicture) => growthChart(of, String).options?.scales?.['x'] as { min: number; max: number };

describe('the chart of growth', () => {
  it('draws what is over without its gaps, and goes on from the last of it: dashed, within its interval', () => {
    const [past, interval, expected] = coursesOf(picture);
    expect([...(past?.values ?? [])]).to.deep.equal([10, 12, 16]);
    expect([...(past?.at ?? [])]).to.deep.equal([1, 2, 4].map((at) => at * day));
    expect([...(interval?.values ?? [])], 'its upper end').to.deep.equal([16, 21, 24, 27]);
    expect([...(interval?.floor ?? [])], 'its lower end').to.deep.equal([16, 15, 16, 17]);
    expect(interval?.fill).to.equal('<--hue-1>33');
    expect([...(expected?.values ?? [])]).to.deep.equal([16, 18, 20, 22]);
    expect(expected?.dash).to.deep.equal([5, 4]);
  });

  it('begins where something is stored, and ends with the last day ahead', () => {
    expect([xOf(picture).min, xOf(picture).max]).to.deep.equal([day, 7 * day]);
    const nothing = { ...picture, values: [null, null, null, null, null] };
    expect(xOf(nothing).min).to.equal(0);
    expect(coursesOf(nothing)[0]?.values.length).to.equal(0);
  });

  it('has no interval where it cannot be said how it goes on, and a line where a limit is', () => {
    const unsure = { ...picture, ahead: [], expected: [], low: [], high: [] };
    expect(coursesOf(unsure)).to.have.length(1);
    expect(xOf(unsure).max).to.equal(4 * day);
    const limited = coursesOf({ ...picture, limit: 50 });
    expect(limited).to.have.length(4);
    expect([...(limited[3]?.values ?? [])]).to.deep.equal([50, 50]);
    const extremes = (of: GrowthPicture) =>
      (growthChart(of, String).data.datasets[0] as unknown as { extremes: { least: number; most: number } }).extremes;
    expect(extremes(picture)).to.include({ least: 10, most: 27 });
    expect(extremes({ ...picture, limit: 50 }).most, 'a limit beyond is seen').to.equal(50);
  });

  it('says days and values as it is told to', () => {
    const { options } = growthChart(picture, String);
    const words = (name: 'x' | 'y', value: number) =>
      (options?.scales?.[name] as unknown as { ticks: { callback: (at: number) => string } }).ticks.callback(value);
    expect([words('x', 3 * day), words('y', 20)]).to.deep.equal(['day 3', '20 GB']);
  });
});
