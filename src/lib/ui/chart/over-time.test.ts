import { expect } from 'chai';
import { instant, minute, range } from '$lib/core/time';
import type { CourseData } from './course';
import { overTimeConfiguration } from './over-time';
import type { Limit, Line, Picture } from './picture';

const line = (id: number, ...values: number[]): Line => ({
  id,
  name: `line ${id}`,
  values: Float64Array.from(values),
  hue: id,
  dashed: id > 8
});
const pictureOf = (lines: Line[], more: Partial<Picture> = {}): Picture => ({
  start: 10 * minute,
  step: minute,
  count: lines[0]?.values.length ?? 0,
  range: range(instant(10 * minute), instant(13 * minute)),
  lines,
  unit: '1',
  ...more
});
const configured = (picture: Picture, limits: Limit[] = []) => {
  const found = overTimeConfiguration(picture, limits, 'UTC', 600, (name) => name.replace('--', ''));
  const first: unknown = found.data.datasets[0] ?? { courses: [], extremes: undefined };
  const { courses, extremes } = first as CourseData;
  return { ...found, courses, extremes, y: found.options?.scales?.['y'] as Record<string, unknown> };
};
const list = (values: Float64Array | null | undefined) => [...(values ?? [])];

describe('the configuration of a chart over time', () => {
  it('gives every line its hue, dashed in the second round, where its cells begin', () => {
    const { courses, extremes } = configured(pictureOf([line(1, 1, 2, 3), line(9, 4, NaN, -6)]));
    expect(courses.map(({ colour, dash, fill }) => ({ colour, dash, fill }))).to.deep.equal([
      { colour: 'hue-1', dash: [], fill: null },
      { colour: 'hue-9', dash: [5, 3], fill: null }
    ]);
    expect(list(courses[0]?.at)).to.deep.equal([10, 11, 12].map((at) => at * minute));
    expect(extremes).to.deep.include({ least: -6, most: 4 });
  });

  it('draws in the unit of the axis', () => {
    const { courses, extremes } = configured(pictureOf([line(1, 2048, 4096, 8192)], { unit: 'By' }));
    expect(list(courses[0]?.values)).to.deep.equal([2, 4, 8]);
    expect(extremes?.most).to.equal(8);
  });

  it('stands stacked ones on those before, over gaps too, and ends the axis at the highest sum', () => {
    const { courses, extremes } = configured(
      pictureOf([line(1, 1, NaN, 3), line(2, 10, 20, 30)], { drawing: 'stacked' })
    );
    expect(list(courses[0]?.values)).to.deep.equal([1, NaN, 3]);
    expect(courses[0]?.floor).to.equal(null);
    expect(list(courses[1]?.values)).to.deep.equal([11, 20, 33]);
    expect(list(courses[1]?.floor)).to.deep.equal([1, 0, 3]);
    expect(courses.map(({ fill }) => fill)).to.deep.equal(['hue-170', 'hue-270']);
    expect(extremes).to.deep.include({ least: 0, most: 33 });
  });

  it('draws what was earlier thin, dotted and empty, later by its shift, and stacks it by itself', () => {
    const earlier = { start: 0, step: minute, count: 3, shift: 10 * minute, words: '10 minutes' };
    const both = (drawing: 'lines' | 'stacked' | 'bars') =>
      configured(
        pictureOf([line(1, 1, 2, 3), line(2, 1, 1, 1)], {
          drawing,
          earlier: { ...earlier, lines: [line(1, 5, 50, 5), line(2, 1, 1, 1)] }
        })
      );
    const { courses, extremes } = both('stacked');
    expect(courses).to.have.length(4);
    expect(courses[0]).to.deep.include({ colour: 'hue-1b0', dash: [1, 3], width: 1, fill: null });
    expect(list(courses[0]?.at)).to.deep.equal([10, 11, 12].map((at) => at * minute));
    expect(list(courses[1]?.values)).to.deep.equal([6, 51, 6]);
    expect(extremes?.most).to.equal(51);
    expect(list(both('lines').courses[1]?.values)).to.deep.equal([1, 1, 1]);
    expect(both('bars').courses).to.have.length(2);
  });

  it('draws many lines thin, a few of them broad', () => {
    const many = (count: number) => Array.from({ length: count }, (_, i) => line((i % 8) + 1, i, i + 1));
    const widths = (count: number) => new Set(configured(pictureOf(many(count))).courses.map(({ width }) => width));
    expect([...widths(12)]).to.deep.equal([1.5]);
    expect([...widths(13)]).to.deep.equal([1]);
    const [raised, ...others] = many(13);
    const earlier = { start: 0, step: minute, count: 2, shift: 10 * minute, words: '10 minutes' };
    const marked = [{ ...(raised as Line), isRaised: true }, ...others];
    const { courses } = configured(pictureOf(marked, { earlier: { ...earlier, lines: marked } }));
    expect(
      courses.slice(0, 13).map(({ width }) => width),
      'what it was earlier is no news'
    ).to.deep.equal(Array.from({ length: 13 }, () => 1));
    expect(courses.slice(13).map(({ width }) => width)).to.deep.equal([2, ...Array.from({ length: 12 }, () => 1)]);
  });

  it('makes a bar of each cell, stacked, and no course where nothing is compared', () => {
    const { data, type } = configured(pictureOf([line(1, 1, 2), line(2, 3, 4)], { drawing: 'bars' }));
    expect(type).to.equal('bar');
    expect(data.datasets.map((set) => set.type)).to.deep.equal(['bar', 'bar']);
    expect(data.datasets[0]?.data).to.deep.equal([
      { x: 10 * minute, y: 1 },
      { x: 11 * minute, y: 2 }
    ]);
  });

  it('has room for its limits, and the ends that somebody gave', () => {
    const limit: Limit = { value: 80, text: '80 major', severity: 'major' };
    const { y, extremes } = configured(pictureOf([line(1, 1, 2)], { axis: { from: 5, to: 50 } }), [limit]);
    expect(extremes?.most).to.equal(80);
    expect(y).to.deep.include({ type: 'linear', min: 5, max: 50 });
    expect(y['suggestedMax']).to.be.closeTo(88, 1e-9);
  });

  it('begins an axis of powers at the smallest value above zero', () => {
    const { y, extremes } = configured(pictureOf([line(1, 0, 0.5, -2), line(2, 7, 90, 3)], { axis: { log: true } }));
    expect(y['type']).to.equal('logarithmic');
    expect(extremes?.leastAboveZero).to.equal(0.5);
  });

  it('keeps every peak of more cells than the chart has pixels', () => {
    const values = Float64Array.from({ length: 30_000 }, (_, i) => (i === 17_017 ? 99 : Math.sin(i)));
    const { courses } = configured(pictureOf([{ ...line(1), values }]));
    const cells = Array.from(courses[0]?.cells ?? []);
    expect(cells.length).to.be.below(2_500);
    expect(cells).to.include(17_017);
  });
});
