import { expect } from 'chai';
import { monthChart, type MonthPicture } from './month-chart';

const picture: MonthPicture = {
  ...{ month: 'Nov', days: 30, soFar: [10, 20, 35], earlier: [9, 18, 27], marks: [] },
  forecast: { soFar: 35, expected: 350, low: 330, high: 380 },
  budgets: [{ words: 'budget €400', amount: 400 }]
};
interface Drawn {
  readonly at: Float64Array;
  readonly values: Float64Array;
  readonly floor: Float64Array | null;
}
const chartOf = (more: Partial<MonthPicture> = {}) =>
  monthChart(
    { ...picture, ...more },
    (amount) => `€${amount}`,
    (name) => `<${name}>`
  );
const coursesOf = (more: Partial<MonthPicture> = {}): readonly Drawn[] =>
  (chartOf(more).data.datasets[0] as unknown as { courses: Drawn[] }).courses;

describe('the chart of a month of costs', () => {
  it('begins at nothing, has each day at its end, and the month before beside it', () => {
    const [now, earlier] = coursesOf();
    expect([...(now?.at ?? [])]).to.deep.equal([0, 1, 2, 3]);
    expect([...(now?.values ?? [])]).to.deep.equal([0, 10, 20, 35]);
    expect([...(earlier?.values ?? [])]).to.deep.equal([0, 9, 18, 27]);
  });

  it('goes on to what is expected at the end of the month, within its interval', () => {
    const [, , expected, interval] = coursesOf();
    expect([...(expected?.at ?? [])]).to.deep.equal([3, 30]);
    expect([...(expected?.values ?? [])]).to.deep.equal([35, 350]);
    expect([...(interval?.values ?? [])]).to.deep.equal([35, 380]);
    expect([...(interval?.floor ?? [])]).to.deep.equal([35, 330]);
  });

  it('goes nowhere once the month is over, before its first day, and where nothing is expected', () => {
    const whole = Array.from({ length: 30 }, (_, index) => (index + 1) * 10);
    expect(coursesOf({ soFar: whole })).to.have.length(3);
    expect(coursesOf({ soFar: [] })).to.have.length(3);
    expect(coursesOf({ forecast: null })).to.have.length(3);
  });

  it('is as high as all of it: budgets, what is expected, what was', () => {
    const most = (more: Partial<MonthPicture>) =>
      (chartOf(more).data.datasets[0] as unknown as { extremes: { most: number } }).extremes.most;
    expect(most({})).to.be.closeTo(432, 1e-9);
    expect(most({ budgets: [] })).to.be.closeTo(380 * 1.08, 1e-9);
    expect(most({ budgets: [], forecast: null, earlier: [900] })).to.be.closeTo(972, 1e-9);
    expect(most({ budgets: [], forecast: null, earlier: [], soFar: [] }), 'of nothing').to.be.closeTo(1.08, 1e-9);
  });

  it('names days of the month and amounts', () => {
    const ticks = (name: 'x' | 'y') =>
      (chartOf().options?.scales?.[name] as unknown as { ticks: { callback: (value: number) => string } }).ticks;
    expect([0, 7, 29, 30].map((day) => ticks('x').callback(day))).to.deep.equal(['1 Nov', '8 Nov', '30 Nov', '']);
    expect(ticks('y').callback(100)).to.equal('€100');
  });
});
