import { expect } from 'chai';
import { pictured, signalPictures, signalsOf, type Panel } from '$lib/core/board';
import { plainSignal, type Signal } from '$lib/core/signal';
import { day, duration, hour, instant, minute, range, times, type Range } from '$lib/core/time';
import { earlierOf, hasSignal, queriesOfPanel, type ReadingOptions } from './panel-queries';

const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
const panel = (picture: (typeof signalPictures)[number], more: object = {}): Panel => ({
  ...pictured('x', signal, picture),
  id: 'p1',
  place: { x: 0, y: 0, w: 6, h: 4 },
  ...more
});
const now = instant(times(30, day));
const shown = range(instant(now - 7 * day), now);
const quick: ReadingOptions = { arrivalOf: () => ({ samplingMs: minute, delayMs: 0 }) };
const length = ({ from, to }: Range) => to - from;
const asked = (of: Panel, options: ReadingOptions = quick) => queriesOfPanel(of, shown, options);

describe('what a panel asks', () => {
  it('is its signal over the shown range, in as many cells as its picture has room for', () => {
    const cells = (['lines', 'areas', 'stacked', 'bars', 'table', 'heat', 'histogram'] as const).map((picture) => {
      const [only, ...others] = asked(panel(picture));
      expect(others, picture).to.deep.equal([]);
      expect(only?.range, picture).to.deep.equal(shown);
      return only?.cells;
    });
    expect(cells).to.deep.equal([400, 400, 400, 60, 200, 120, 400]);
  });

  it('for a figure of now is the last half hour, whatever range is shown, and longer for what comes late', () => {
    for (const picture of ['gauge', 'ring', 'ranks'] as const) {
      const [only] = asked(panel(picture));
      expect(only && [length(only.range), only.range.to], picture).to.deep.equal([hour / 2, now]);
    }
    const late: ReadingOptions = { arrivalOf: () => ({ samplingMs: hour, delayMs: 6 * hour }) };
    expect(asked(panel('gauge'), late).map(({ range: of }) => length(of))).to.deep.equal([10 * hour]);
    const short = range(instant(now - 5 * minute), now);
    expect(queriesOfPanel(panel('gauge'), short, quick).map(({ range: of }) => of)).to.deep.equal([short]);
    const [far] = queriesOfPanel(panel('gauge'), short, late);
    expect(far && [length(far.range), far.range.to], 'what comes late is there in a short range').to.deep.equal([
      10 * hour,
      now
    ]);
    expect(asked(panel('gauge', { reduce: 'avg' })).map(({ range: of }) => of)).to.deep.equal([shown]);
  });

  it('of a number is also its course and what was there earlier, as the panel or the reader says', () => {
    const names = (of: Panel, options: ReadingOptions = quick) => asked(of, options).map(({ name }) => name);
    expect(names(panel('number'))).to.deep.equal(['main', 'course', 'earlier']);
    expect(names(panel('number'), { ...quick, earlier: null })).to.deep.equal(['main', 'course']);
    const [main, course, earlier] = asked(panel('number', { earlier: 'P1D' }));
    expect(earlier && main && main.range.from - earlier.range.from).to.equal(day);
    expect(course?.signal.step, 'a small course has cells that suit the range').to.equal('auto');
    expect(names(panel('lines'), { ...quick, earlier: times(7, day) })).to.deep.equal(['main', 'earlier']);
    expect(names(panel('lines', { earlier: 'P1D' }))).to.deep.equal(['main', 'earlier']);
  });

  it('compares the highest with what they were, though others were the highest then', () => {
    const limited = (rest: 'leave out' | 'sum') =>
      panel('number', { signal: { ...signal, limit: { keep: 1, order: 'highest', by: 'last', rest } } });
    const limits = (of: Panel) => asked(of).map(({ name, signal: its }) => [name, its.limit?.keep]);
    expect(limits(limited('leave out'))).to.deep.equal([
      ['main', 1],
      ['course', 1],
      ['earlier', undefined]
    ]);
    expect(limits(limited('sum')).at(-1), 'others are others only beside the highest').to.deep.equal(['earlier', 1]);
  });

  it('of a list is a query for each column, in its place', () => {
    const columns = [
      { title: 'Now', signal, reduce: 'last', show: 'shade' },
      { title: 'Course', signal, reduce: 'last', show: 'course' },
      { title: 'Most', signal, reduce: 'max', show: 'bar' }
    ];
    const all = asked(panel('snapshot', { columns }));
    expect(all.map(({ name, column, range: of }) => [name, column, length(of)])).to.deep.equal([
      ['column 0', 0, hour / 2],
      ['column 1', 1, 7 * day],
      ['column 2', 2, 7 * day]
    ]);
  });

  it('is nothing for a text or a list of alarms, and something for every picture of a signal', () => {
    for (const picture of signalPictures) {
      expect(hasSignal(panel(picture)), picture).to.equal(true);
      const signals = new Set<Signal>(asked(panel(picture)).map(({ signal: of }) => of));
      expect(signals.has(signalsOf(panel(picture))[0] as Signal), picture).to.equal(true);
    }
    const place = { x: 0, y: 0, w: 6, h: 4 };
    const others: Panel[] = [
      { id: 't', title: 'x', place, picture: 'text', text: '' },
      { id: 'a', title: 'x', place, picture: 'alarms' },
      { id: 'i', title: 'x', place, picture: 'incidents', open: true },
      { id: 's', title: 'x', place, picture: 'silent', minutes: 5 },
      { id: 'g', title: 'x', place, picture: 'status', of: 'groups' },
      { id: 'm', title: 'x', place, picture: 'marks' }
    ];
    for (const one of others) expect([asked(one), hasSignal(one)], one.picture).to.deep.equal([[], false]);
  });

  it('is compared with what the reader chose, else with what the panel says', () => {
    expect(earlierOf('P1D', undefined)).to.equal(day);
    expect(earlierOf('P1D', null)).to.equal(null);
    expect(earlierOf(undefined, duration(hour))).to.equal(hour);
    expect(earlierOf(undefined, undefined)).to.equal(null);
  });
});
