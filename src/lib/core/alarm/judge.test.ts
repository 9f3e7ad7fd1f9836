import { expect } from 'chai';
import fc from 'fast-check';
import { rule, threshold } from '../../../../tests/support/alarm';
import type { Instant } from '../time';
import { compareWith, type Comparison } from './condition';
import {
  judgeSeries,
  noMemory,
  standingOf,
  warmed,
  windowCells,
  type SeriesMemory,
  type Standing,
  type State
} from './judge';
import { decodeMemory, encodeMemory, MemoryDamaged } from './memory';
import type { Rule } from './schema';

const grid = (count: number) => ({ start: 0 as Instant, step: 60_000 as never, count });
const comparisonsOf = (kept: Rule, values: readonly number[]): Comparison[] =>
  kept.levels.map(
    ({ condition }) =>
      compareWith(condition, {
        grid: grid(values.length),
        columns: [Float64Array.from(values)],
        zone: kept.zone
      })[0] as Comparison
  );
const judged = (kept: Rule, values: readonly number[], memory: SeriesMemory = noMemory(kept)) =>
  judgeSeries(kept, memory, comparisonsOf(kept, values), 0, values.length);
const states = (kept: Rule, values: readonly number[]): (readonly [number, State, string | null])[] =>
  judged(kept, values).transitions.map(({ index, to }) => [index, to.state, to.severity]);

/** How a person would judge by hand: every window counted anew, from the whole history. */
function byHand(kept: Rule, values: readonly number[]): Standing[] {
  const { window, clearing, whenMissing } = kept;
  const levels = kept.levels.map(() => ({ state: 'indeterminate', held: false }));
  return values.map((_, index) => {
    for (const [position, level] of levels.entries()) {
      const { condition } = kept.levels[position]!;
      if (condition.kind !== 'threshold' || !('limit' in condition)) throw new Error('thresholds only');
      const { limit, clear = limit, is } = condition;
      const kind = (value: number | undefined): 'met' | 'well' | 'between' | 'missing' => {
        if (value === undefined) return 'missing';
        if (Number.isNaN(value))
          return whenMissing === 'meets' ? 'met' : whenMissing === 'does not meet' ? 'well' : 'missing';
        if (is === 'above' ? value > limit : value < limit) return 'met';
        return (is === 'above' ? value <= clear : value >= clear) ? 'well' : 'between';
      };
      const last = (cells: number) =>
        Array.from({ length: cells }, (_, back) => kind(values[index - back])).reduce(
          (counts, one) => ({ ...counts, [one]: counts[one] + 1 }),
          { met: 0, well: 0, between: 0, missing: 0 }
        );
      const counts = last(window.of);
      let verdict: State | 'cannot tell' = 'cannot tell';
      if (counts.met >= window.needs) verdict = 'raised';
      else if (!level.held) verdict = counts.met + counts.missing < window.needs ? 'clear' : 'cannot tell';
      else if (clearing) {
        const calm = last(clearing.of);
        if (calm.well >= clearing.needs) verdict = 'clear';
        else if (calm.well + calm.missing < clearing.needs) verdict = 'raised';
      } else {
        const still = counts.met + counts.between;
        if (still >= window.needs) verdict = 'raised';
        else if (still + counts.missing < window.needs) verdict = 'clear';
      }
      if (verdict === 'cannot tell') level.state = whenMissing === 'keep' ? level.state : 'indeterminate';
      else {
        level.state = verdict;
        level.held = verdict === 'raised';
      }
    }
    const state = levels.some((level) => level.state === 'raised')
      ? 'raised'
      : levels.some((level) => level.state === 'indeterminate')
        ? 'indeterminate'
        : 'clear';
    const gravest = levels.findLastIndex(({ held }) => held);
    return { state, severity: gravest < 0 ? null : kept.levels[gravest]!.severity };
  });
}

const windowOf = (most: number) =>
  fc.tuple(fc.integer({ min: 1, max: most }), fc.integer({ min: 1, max: most })).map(([one, other]) => ({
    needs: Math.min(one, other),
    of: Math.max(one, other)
  }));
const anyRule = fc
  .record({
    window: windowOf(8),
    clearing: fc.option(windowOf(8), { nil: undefined }),
    whenMissing: fc.constantFrom<Rule['whenMissing']>('indeterminate', 'keep', 'meets', 'does not meet'),
    clear: fc.option(fc.constantFrom(60, 80), { nil: undefined }),
    levels: fc.constantFrom(1, 2)
  })
  .map(({ window, clearing, whenMissing, clear, levels }): Rule => {
    const level = (limit: number, severity: 'major' | 'critical') => ({
      severity,
      condition: {
        kind: 'threshold' as const,
        is: 'above' as const,
        limit,
        ...(clear !== undefined && { clear: clear + limit - 80 })
      }
    });
    const all = [level(80, 'major'), level(95, 'critical')].slice(0, levels);
    return { levels: all, window, ...(clearing && { clearing }), whenMissing, zone: 'UTC' };
  });
const anyValues = fc.array(fc.constantFrom(90, 97, 75, 10, NaN), { maxLength: 60 });

describe('judging cells', () => {
  it('above is strictly above, below strictly below', () => {
    expect(states(rule(1, 1), [80, 80.0001])).to.deep.equal([
      [0, 'clear', null],
      [1, 'raised', 'major']
    ]);
    expect(states(rule(1, 1, { levels: [threshold('below', 80)] }), [80, 79])).to.deep.equal([
      [0, 'clear', null],
      [1, 'raised', 'major']
    ]);
  });

  it('cannot tell only when the missing cells could decide', () => {
    const standing = (values: readonly number[]) => {
      const kept = rule(2, 3);
      return standingOf(judged(kept, values).memory, kept).state;
    };
    expect(standing([90, NaN, 90])).to.equal('raised');
    expect(standing([90, NaN, 10])).to.equal('indeterminate');
    expect(standing([10, NaN, 10])).to.equal('clear');
    expect(standing([10])).to.equal('indeterminate');
  });

  it('between the threshold and the clearing threshold, what is raised stays so and what is clear too', () => {
    const kept = rule(1, 1, {
      levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 80, clear: 70 } }]
    });
    expect(states(kept, [75, 90, 75, 75, 70, 75])).to.deep.equal([
      [0, 'clear', null],
      [1, 'raised', 'major'],
      [4, 'clear', null]
    ]);
  });

  it('with a clearing window clears when so many cells are well, and not before', () => {
    const kept = rule(1, 1, { clearing: { needs: 3, of: 3 } });
    expect(states(kept, [90, 10, 10, 90, 10, 10, 10])).to.deep.equal([
      [0, 'raised', 'major'],
      [6, 'clear', null]
    ]);
  });

  it('its severity goes up and down as one, and lasts through what is indeterminate', () => {
    const kept = rule(1, 1, { levels: [threshold('above', 80), threshold('above', 95, 'critical')] });
    expect(states(kept, [85, 97, 90, NaN, 97, 10])).to.deep.equal([
      [0, 'raised', 'major'],
      [1, 'raised', 'critical'],
      [2, 'raised', 'major'],
      [3, 'indeterminate', 'major'],
      [4, 'raised', 'critical'],
      [5, 'clear', null]
    ]);
  });

  it('has the example of its documentation', () => {
    expect(states(rule(2, 2), [70, 90, 90])).to.deep.include([2, 'raised', 'major']);
  });

  it('gives what counting every window by hand gives', () => {
    fc.assert(
      fc.property(anyRule, anyValues, (kept, values) => {
        const expected = byHand(kept, values);
        let standing: Standing = { state: 'indeterminate', severity: null };
        const changes = expected.flatMap((next, index) => {
          const isSame = next.state === standing.state && next.severity === standing.severity;
          standing = next;
          return isSame ? [] : [[index, next.state, next.severity] as const];
        });
        expect(states(kept, values)).to.deep.equal(changes);
      }),
      { numRuns: 1000 }
    );
  });

  it('judged in pieces, each after a restart, gives what judging at once gives', () => {
    fc.assert(
      fc.property(anyRule, anyValues, fc.array(fc.nat(60), { maxLength: 8 }), (kept, values, cuts) => {
        const comparisons = comparisonsOf(kept, values);
        const whole = judgeSeries(kept, noMemory(kept), comparisons, 0, values.length);
        const edges = [0, ...cuts.map((cut) => Math.min(cut, values.length)), values.length].sort((a, b) => a - b);
        let memory = noMemory(kept);
        const transitions = edges.slice(1).flatMap((to, index) => {
          const stored = encodeMemory(
            new Map([['7', { judgedUntil: 5 as Instant, lastValueAt: null, begins: false, memory }]])
          );
          const restarted = decodeMemory(stored).get('7')!.memory;
          const piece = judgeSeries(kept, restarted, comparisons, edges[index]!, to);
          memory = piece.memory;
          return piece.transitions;
        });
        expect(transitions).to.deep.equal(whole.transitions);
        expect(memory).to.deep.equal(whole.memory);
      }),
      { numRuns: 500 }
    );
  });

  it('a series that begins with the window before it says what one that was judged through it says', () => {
    fc.assert(
      fc.property(anyRule, fc.array(fc.constantFrom(90, 97, 10), { minLength: 20, maxLength: 40 }), (kept, values) => {
        const from = 16;
        const comparisons = comparisonsOf(kept, values);
        const through = judgeSeries(kept, noMemory(kept), comparisons, 0, from).memory;
        const begun = warmed(kept, comparisons, from, through.levels);
        const after = (memory: SeriesMemory) =>
          judgeSeries(kept, memory, comparisons, from, values.length).transitions.map(({ index, to }) => [index, to]);
        expect(windowCells(kept)).to.be.at.most(8);
        expect(after(begun)).to.deep.equal(after(through));
      })
    );
  });

  it('keeps the worst value of each period, from the window that raised it on', () => {
    const { transitions } = judged(rule(2, 3), [10, 90, 99, 95, 10, 10, 10]);
    expect(transitions.at(-1)?.peak).to.deep.equal({ value: 99, beyond: 19 });
    const below = judged(rule(1, 1, { levels: [threshold('below', 10)] }), [5, 2, 7, 50]);
    expect(below.transitions.at(-1)?.peak).to.deep.equal({ value: 2, beyond: 8 });
  });
});

describe('what is remembered of an alarm', () => {
  it('is small for what is quiet, whatever the window', () => {
    const kept = rule(1, 1440);
    const { memory } = judged(
      kept,
      Array.from({ length: 3000 }, () => 10)
    );
    const bytes = encodeMemory(
      new Map([['12345', { judgedUntil: 9 as Instant, lastValueAt: 9 as Instant, begins: false, memory }]])
    );
    expect(bytes.length).to.be.below(80);
  });

  it('that was damaged is refused rather than misread', () => {
    const kept = rule(3, 5);
    const { memory } = judged(kept, [90, 10, 90, 90, 90]);
    const bytes = encodeMemory(
      new Map([['7', { judgedUntil: 9 as Instant, lastValueAt: null, begins: false, memory }]])
    );
    for (let length = 0; length < bytes.length; length++)
      expect(() => decodeMemory(bytes.slice(0, length)), String(length)).to.throw(MemoryDamaged);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (noise) => {
        try {
          decodeMemory(noise);
        } catch (error) {
          if (!(error instanceof MemoryDamaged)) throw error;
        }
      })
    );
  });
});
