import { expect } from 'chai';
import { dayBars } from './day-bars';

describe('bars of days', () => {
  const bars = {
    dates: ['2026-04-30', '2026-05-01', '2026-05-02'],
    stacks: [
      { name: 'minor', colour: '--minor', values: [1, 0, 2] },
      { name: 'major', colour: '--major', values: [0, 3, null] }
    ]
  };
  const chart = dayBars(
    bars,
    (value) => `${value} raised`,
    (name) => `<${name}>`
  );

  it('stand one above the other on each day, in the colours of the theme; what nobody knows has none', () => {
    expect(chart.data.labels).to.deep.equal(['30 Apr', '1 May', '2 May']);
    const [minor, major] = chart.data.datasets;
    expect([minor?.label, minor?.backgroundColor, minor?.data]).to.deep.equal(['minor', '<--minor>', [1, 0, 2]]);
    expect(major?.data).to.deep.equal([0, 3, null]);
    expect(minor?.stack).to.equal(major?.stack);
    expect(
      [chart.options?.scales?.['x'], chart.options?.scales?.['y']].every((one) => (one as { stacked: boolean }).stacked)
    ).to.equal(true);
  });

  it('begin at nothing, and are read in words', () => {
    const y = chart.options?.scales?.['y'] as unknown as {
      beginAtZero: boolean;
      ticks: { callback: (value: number) => string };
    };
    expect([y.beginAtZero, y.ticks.callback(3)]).to.deep.equal([true, '3 raised']);
  });
});
