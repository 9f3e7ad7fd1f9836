import { expect } from 'chai';
import fc from 'fast-check';
import { clipTo, drawCourse, type Course } from './course';

/** What a canvas was told, as words and numbers. */
function drawn(
  course: Partial<Course> & Pick<Course, 'values'>,
  y: { type?: string; min?: number; max?: number } = {}
) {
  const told: (string | number)[][] = [];
  const tell =
    (what: string) =>
    (...numbers: number[]) =>
      void told.push([what, ...numbers.slice(0, 2)]);
  const ctx = Object.fromEntries(
    [
      'save',
      'restore',
      'beginPath',
      'moveTo',
      'lineTo',
      'arc',
      'rect',
      'stroke',
      'fill',
      'closePath',
      'setLineDash'
    ].map((name) => [name, tell(name)])
  );
  Object.defineProperty(ctx, 'globalAlpha', { set: (alpha: number) => void told.push(['alpha', alpha]) });
  const { length } = course.values;
  const cells = [...course.values.keys()];
  const whole = {
    at: Float64Array.from(cells),
    cells,
    complete: Infinity,
    colour: '#000',
    width: 1,
    dash: [],
    fill: null,
    floor: null,
    ...course
  };
  const ruler = (min: number, max: number, type: string, pixel: (value: number) => number) =>
    ({ min, max, type, getPixelForValue: pixel }) as never;
  const { type = 'linear', min = 0, max = 10 } = y;
  drawCourse(
    ctx as never,
    whole,
    ruler(0, Math.max(1, length - 1), 'time', (value) => 10 * value),
    ruler(min, max, type, (value) => (type === 'logarithmic' ? 100 - 10 * Math.log10(value) : 100 - 10 * value))
  );
  return told.filter(([what]) => what !== 'setLineDash');
}
const words = (told: (string | number)[][]) => told.map((one) => one.join(' '));

describe('a course', () => {
  it('is one line through its cells', () => {
    expect(words(drawn({ values: Float64Array.of(1, 2, 3) }))).to.deep.equal([
      'beginPath',
      'moveTo 0 90',
      'lineTo 10 80',
      'lineTo 20 70',
      'stroke'
    ]);
  });

  it('stops at gaps, and has a point where a value lies between two', () => {
    expect(words(drawn({ values: Float64Array.of(1, NaN, 3, NaN, 4, 5) }))).to.deep.equal([
      'beginPath',
      'moveTo 0 90',
      'moveTo 20 70',
      'moveTo 40 60',
      'lineTo 50 50',
      'stroke',
      'beginPath',
      'moveTo 1 90',
      'arc 0 90',
      'rect 0 89.5',
      'moveTo 21 70',
      'arc 20 70',
      'rect 20 69.5',
      'fill'
    ]);
  });

  it('between two gaps is a point where its cell is no longer than that, and where nobody knows how long it is', () => {
    const narrow = Float64Array.of(0, 0.1, 0.2);
    const arcs = (values: Float64Array, at?: Float64Array) =>
      words(drawn({ values, ...(at ? { at } : {}) })).filter((one) => /^(arc|rect)/.test(one));
    expect(arcs(Float64Array.of(1, NaN, NaN), narrow)).to.deep.equal(['arc 0 90']);
    expect(arcs(Float64Array.of(NaN, NaN, 1), narrow)).to.deep.equal(['arc 2 90']);
    expect(arcs(Float64Array.of(NaN, 1))).to.deep.equal(['arc 10 90', 'rect 10 89.5']);
    expect(arcs(Float64Array.of(1))).to.deep.equal(['arc 0 90']);
  });

  it('is cut where the range begins and ends, and keeps its width along the top and the foot', () => {
    const told: unknown[] = [];
    const tell =
      (what: string) =>
      (...numbers: unknown[]) =>
        void told.push([what, ...numbers]);
    const ctx = { beginPath: tell('beginPath'), rect: tell('rect'), clip: tell('clip') };
    clipTo(ctx, { left: 40, right: 240, top: 4, bottom: 104, width: 200, height: 100 });
    expect(told).to.deep.equal([['beginPath'], ['rect', 40, 2, 200, 104], ['clip']]);
  });

  it('is lighter where cells still fill, from the last complete one on', () => {
    expect(words(drawn({ values: Float64Array.of(1, 2, 3), complete: 2 }))).to.deep.equal([
      'beginPath',
      'moveTo 0 90',
      'lineTo 10 80',
      'stroke',
      'save',
      'alpha 0.4',
      'beginPath',
      'moveTo 10 80',
      'lineTo 20 70',
      'stroke',
      'restore'
    ]);
    expect(words(drawn({ values: Float64Array.of(1, 2, NaN), complete: 2 }))).not.to.include('alpha 0.4');
  });

  it('is drawn through the chosen cells alone', () => {
    expect(words(drawn({ values: Float64Array.of(1, 9, 3), cells: [0, 2] }))).to.deep.equal([
      'beginPath',
      'moveTo 0 90',
      'lineTo 20 70',
      'stroke'
    ]);
  });

  it('has an area down to zero, or to what it stands on, for each stretch', () => {
    const values = Float64Array.of(2, 3, NaN, 4, 5);
    const area = (floor: Float64Array | null) => {
      const told = words(drawn({ values, fill: '#123', floor }));
      return told.slice(told.indexOf('stroke') + 1);
    };
    const top = ['lineTo 0 80', 'lineTo 10 70'];
    expect(area(null)).to.deep.equal([
      ...['beginPath', ...top, 'lineTo 10 100', 'lineTo 0 100', 'closePath'],
      ...['lineTo 30 60', 'lineTo 40 50', 'lineTo 40 100', 'lineTo 30 100', 'closePath', 'fill']
    ]);
    expect(area(Float64Array.of(1, 1, 1, 1, 1)).slice(3, 5)).to.deep.equal(['lineTo 10 90', 'lineTo 0 90']);
  });

  it('stands on the end of the axis that is nearer when zero is not on it', () => {
    const told = words(drawn({ values: Float64Array.of(6, 7), fill: '#123' }, { min: 5, max: 10 }));
    expect(told).to.include('lineTo 10 50');
  });

  it('leaves out what an axis of powers has no place for', () => {
    const values = Float64Array.of(10, -1, 100, 1000);
    expect(words(drawn({ values }, { type: 'logarithmic', min: 1, max: 1000 })).slice(0, 5)).to.deep.equal([
      'beginPath',
      'moveTo 0 90',
      'moveTo 20 80',
      'lineTo 30 70',
      'stroke'
    ]);
  });

  it('draws every value once, as a line or as a point, whatever is missing', () => {
    const value = fc.option(fc.integer({ min: 0, max: 10 }), { nil: NaN });
    fc.assert(
      fc.property(fc.array(value, { minLength: 2 }), (list) => {
        const told = drawn({ values: Float64Array.from(list) });
        const ends = told.slice(
          0,
          told.findIndex(([what]) => what === 'stroke')
        );
        const places = ends.filter(([what]) => what !== 'beginPath').map(([, x]) => Math.round(Number(x) / 10));
        expect(places).to.deep.equal([...list.keys()].filter((cell) => !Number.isNaN(list[cell])));
        const points = told.filter(([what]) => what === 'arc').map(([, x]) => Math.round(Number(x) / 10));
        const isThere = (cell: number) => !Number.isNaN(list[cell] ?? NaN);
        expect(points).to.deep.equal(places.filter((cell) => !isThere(cell - 1) && !isThere(cell + 1)));
      })
    );
  });
});
