import { expect } from 'chai';
import fc from 'fast-check';
import { rule, threshold } from '../../../../tests/support/alarm';
import { instant, minute } from '../time';
import { circleFrom, combineParts } from './combine';
import { cellCode } from './condition';
import { rehearse, worstPeriod } from './rehearse';
import type { Rule } from './schema';

const rehearsed = (values: readonly number[], kept: Rule) =>
  rehearse(
    {
      grid: { start: instant(0), step: minute, count: values.length },
      columns: [Float64Array.from(values)],
      zone: 'UTC'
    },
    [7],
    kept
  );

describe('a rehearsal', () => {
  it('says when each series would have been raised, for how long, and its peak', () => {
    const { periods, windows } = rehearsed([10, 90, 95, 99, 20, 10, 10, 10, 91, 92], rule(2, 3));
    expect(windows).to.equal(10);
    const major = { severity: 'major', seriesId: 7 };
    expect(periods).to.deep.equal([
      {
        ...major,
        from: 3 * minute,
        to: 6 * minute,
        steps: [{ at: 3 * minute, severity: 'major' }],
        peak: 99,
        beyond: 19
      },
      { ...major, from: 10 * minute, to: null, steps: [{ at: 10 * minute, severity: 'major' }], peak: 92, beyond: 12 }
    ]);
  });

  it('a period has the gravest of its severities, and each of its steps', () => {
    const kept = rule(1, 1, { levels: [threshold('above', 80), threshold('above', 95, 'critical')] });
    const [period] = rehearsed([10, 85, 97, 90, 10], kept).periods;
    expect(period).to.deep.include({ severity: 'critical', from: 2 * minute, to: 5 * minute, peak: 97 });
    expect(period?.steps.map(({ severity }) => severity)).to.deep.equal(['major', 'critical', 'major']);
  });

  it('its worst period is the one farthest beyond the limit, also below it', () => {
    const values = [50, 5, 50, 2, 50, 7, 50];
    expect(worstPeriod(rehearsed(values, rule(1, 1, { levels: [threshold('below', 10)] })))?.peak).to.equal(2);
    expect(worstPeriod(rehearsed(values, rule(1, 1)))).to.equal(undefined);
    expect(worstPeriod(rehearsed(values, rule(1, 1, { levels: [threshold('above', 3)] })))?.peak).to.equal(50);
  });

  it('a period outlasts missing data, as an incident does', () => {
    const { periods } = rehearsed([90, NaN, NaN, 90, 10], rule(1, 1));
    expect(periods).to.have.length(1);
    expect(periods[0]?.to).to.equal(5 * minute);
  });

  it('counts as many periods as a person would who replays it cell by cell', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(90, 10, NaN), { maxLength: 50 }),
        fc.integer({ min: 1, max: 4 }),
        (values, of) => {
          let open = false;
          let count = 0;
          for (let i = 0; i < values.length; i++) {
            const window = values.slice(Math.max(0, i - of + 1), i + 1);
            const unknown = window.filter(Number.isNaN).length + Math.max(0, of - 1 - i);
            if (window.some((value) => value > 80)) {
              if (!open) count++;
              open = true;
            } else if (unknown === 0) open = false;
          }
          expect(rehearsed(values, rule(1, of)).periods).to.have.length(count);
        }
      )
    );
  });
});

describe('combining', () => {
  const { met, well, missing } = cellCode;
  const series = (labels: Record<string, string>, ...codes: number[]) => ({ labels, codes });

  it('joins on equal labels, and a part without series may hold', () => {
    const combined = combineParts(
      [
        [series({ region: 'p', host: '1' }, met, well), series({ region: 'p', host: '2' }, well, met)],
        [series({ region: 'p' }, met, missing), series({ region: 'q' }, well, met)]
      ],
      ['region'],
      2
    );
    expect(combined.map(({ labels, hold, mayHold }) => [labels, [...hold], [...mayHold]])).to.deep.equal([
      [{ region: 'p' }, [2, 1], [2, 2]],
      [{ region: 'q' }, [0, 1], [1, 2]]
    ]);
  });

  it('on no labels there is one series, also of parts that watch nothing', () => {
    expect(combineParts([[], []], [], 1).map(({ hold, mayHold }) => [hold[0], mayHold[0]])).to.deep.equal([[0, 2]]);
  });

  it('any and all differ exactly where parts disagree', () => {
    const kept = (needs: 'any' | 'all'): Rule =>
      rule(1, 1, { levels: [{ severity: 'major', condition: { kind: 'combined', needs } }] });
    const [one] = combineParts([[series({}, met, met, well, missing)], [series({}, met, well, well, met)]], [], 4);
    const raised = (needs: 'any' | 'all') =>
      rehearse(
        {
          grid: { start: instant(0), step: minute, count: 4 },
          columns: [one!.hold],
          mayHold: [one!.mayHold],
          parts: 2,
          zone: 'UTC'
        },
        [1],
        kept(needs)
      ).periods.map(({ from, to }) => [from / minute, to && to / minute]);
    expect(raised('any')).to.deep.equal([
      [1, 3],
      [4, null]
    ]);
    expect(raised('all')).to.deep.equal([[1, 2]]);
  });

  it('a circle is found, and a part that two share is none', () => {
    const parts: Record<number, number[]> = { 1: [2, 3], 2: [4], 3: [4], 4: [], 5: [6], 6: [7], 7: [6] };
    const partsOf = (id: number) => parts[id] ?? [];
    expect(circleFrom(1, partsOf)).to.equal(null);
    expect(circleFrom(5, partsOf)).to.deep.equal([6, 7, 6]);
  });
});
