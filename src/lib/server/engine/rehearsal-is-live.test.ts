import { expect } from 'chai';
import fc from 'fast-check';
import { rule as ruleOf } from '../../../../tests/support/alarm';
import {
  anyWorld,
  arrivals,
  bandsOf,
  declaredDelay,
  evaluatorAt,
  historyCells,
  liveCells,
  resolvedOf,
  signalOf,
  start,
  type World
} from '../../../../tests/support/alarm-world';
import {
  codesOf,
  combineParts,
  compareWith,
  judgeSeries,
  rehearse,
  warmed,
  type Comparison,
  type Condition,
  type ConditionData,
  type Rule
} from '../../core/alarm';
import type { Column } from '../../core/signal';
import { minute, range, times, type Grid, type Instant, type Range } from '../../core/time';
import { columnKey, evaluated, conditionData } from './condition-data';
import { judgeSource } from './judge-alarm';
import type { JudgedSeries } from './judged';
import type { WatchedSource } from './source';
import { signalSource } from './watched-source';

// The engine judges what has arrived, when it arrives, in whatever pieces; the rehearsal judges the whole afterwards. Both must say the same, event for event.

type Opened = (now: number) => WatchedSource;

/** Everything that the engine says while it lives through a world: restarted before each look. */
async function live(world: World, rule: Rule, open: Opened): Promise<JudgedSeries[]> {
  const definition = { signal: signalOf(world), rule } as never;
  const said: JudgedSeries[] = [];
  let memory: Uint8Array | null = null;
  let now = start + (historyCells + 4) * minute + 20_000;
  const end = start + (historyCells + liveCells) * minute + 2 * declaredDelay + 2 * minute;
  for (let look = 0; now <= end; look++) {
    const source = open(now);
    const before = { version: 1, memory, open: [], levelsBefore: rule.levels.map(({ severity }) => severity) };
    const judged = await judgeSource({ definition, version: 1 }, source, before, now as Instant);
    memory = judged.work.memory;
    said.push(...judged.series);
    now += (world.looks[look % world.looks.length] ?? 1) * 37_000;
  }
  return said;
}

const told = (at: number, state: string, severity: string | null) => `${(at - start) / minute} ${state} ${severity}`;

/** @returns what the engine said, what judging the whole says, and the raised periods of the rehearsal, by series */
async function compare(
  world: World,
  rule: Rule,
  open: Opened,
  whole: (span: Range) => Promise<{ columns: readonly Column[]; data: readonly ConditionData[]; grid: Grid }>
) {
  const said = await live(world, rule, open);
  const lead = times(100, minute);
  const end = start + (historyCells + liveCells + 12) * minute;
  const { columns, data, grid } = await whole(
    range((start + historyCells * minute - lead) as Instant, (end + minute) as Instant)
  );
  const comparisons = rule.levels.map(({ condition }, level) => compareWith(condition, data[level]!));
  const result = { live: [] as string[], whole: [] as string[], periods: [] as string[], livePeriods: [] as string[] };
  for (const [of, column] of columns.entries()) {
    const key = columnKey(column);
    const own = said.filter(({ watched }) => watched.key === key);
    if (own.length === 0) continue;
    const until = Math.round((own.at(-1)!.judgedUntil - grid.start) / minute);
    const first = Math.round((own[0]!.judgedFrom - grid.start) / minute);
    const mine = comparisons.map((all) => all[of] as Comparison);
    const { transitions } = judgeSeries(rule, warmed(rule, mine, first), mine, first, until);
    const line = (text: string) => `${key}: ${text}`;
    result.whole.push(
      ...transitions.map(({ index, to }) => line(told(grid.start + (index + 1) * minute, to.state, to.severity)))
    );
    const changes = own.flatMap((one) => one.changes);
    result.live.push(...changes.map(({ at, transition: { to } }) => line(told(at, to.state, to.severity))));
    const cut = (one: ConditionData): ConditionData => ({
      ...one,
      columns: one.columns.map((values) => Float64Array.from(values).subarray(0, until))
    });
    const rehearsed =
      rule.levels.length === 1
        ? rehearse(
            cut(data[0]!),
            columns.map((_, index) => index),
            rule,
            first
          )
        : null;
    for (const { seriesId, from, to, severity } of rehearsed?.periods ?? [])
      if (seriesId === of) result.periods.push(line(`${from} ${to} ${severity}`));
    let opened: number | null = null;
    for (const {
      at,
      transition: { from, to }
    } of rehearsed ? changes : []) {
      if (from.severity === null && to.severity !== null) opened = at;
      if (from.severity !== null && to.severity === null)
        result.livePeriods.push(line(`${opened} ${at} ${from.severity}`));
      if (to.severity === null) opened = null;
    }
    if (opened !== null) result.livePeriods.push(line(`${opened} null ${rule.levels[0]!.severity}`));
  }
  return result;
}

const windows = fc.constantFrom({ needs: 1, of: 1 }, { needs: 2, of: 3 }, { needs: 3, of: 5 }, { needs: 4, of: 4 });
const anyRule = (condition: fc.Arbitrary<Condition>): fc.Arbitrary<Rule> =>
  fc
    .record({
      window: windows,
      clearing: fc.option(windows, { nil: undefined }),
      whenMissing: fc.constantFrom<Rule['whenMissing']>('indeterminate', 'keep', 'meets', 'does not meet'),
      condition
    })
    .map(({ condition, clearing, ...rest }) =>
      ruleOf(1, 1, { ...rest, ...(clearing && { clearing }), levels: [{ severity: 'major', condition }] })
    );

const kinds: Readonly<Record<string, { condition: fc.Arbitrary<Condition>; series?: number }>> = {
  threshold: {
    condition: fc.constantFrom<Condition>(
      { kind: 'threshold', is: 'above', limit: 80, clear: 24 },
      { kind: 'threshold', is: 'below', limit: 21 },
      { kind: 'threshold', is: 'outside', low: 21, high: 80 },
      {
        kind: 'threshold',
        is: 'above',
        limit: 80,
        exceptions: [{ times: { hours: { from: '02:00', to: '02:20' } }, off: true }]
      }
    )
  },
  band: {
    condition: fc.constantFrom<Condition>(
      { kind: 'band', is: 'above', widths: 2, clear: 1 },
      { kind: 'band', is: 'outside', widths: 1 }
    )
  },
  change: {
    condition: fc.constantFrom<Condition>(
      { kind: 'change', is: 'rise', by: 60, as: 'percent', against: 'before', over: 'PT3M' },
      { kind: 'change', is: 'either', by: 20, as: 'amount', against: 'before', over: 'PT1M' },
      { kind: 'change', is: 'rise', by: 100, as: 'percent', against: 'day', over: 'PT2M' }
    )
  },
  absence: {
    condition: fc.constantFrom<Condition>({ kind: 'absence', for: 'PT1M' }, { kind: 'absence', for: 'PT3M' })
  },
  rank: {
    condition: fc.constantFrom<Condition>({ kind: 'rank', is: 'outside', by: 3 }, { kind: 'rank', is: 'above', by: 5 }),
    series: 6
  },
  forecast: {
    condition: fc.constantFrom<Condition>(
      { kind: 'forecast', is: 'above', limit: 60, within: 'PT30M', from: 'PT30M' },
      { kind: 'forecast', is: 'below', limit: 15, within: 'PT1H', from: 'PT20M' }
    )
  }
};

describe('what a rehearsal shows is what the engine does', () => {
  for (const [kind, { condition, series = 1 }] of Object.entries(kinds))
    it(`for ${kind}, with samples that overtake each other, gaps, resets, and a restart before each look`, async () => {
      let raised = 0;
      const worlds = fc.boolean().chain((isCumulative) => anyWorld(isCumulative && kind !== 'forecast', series));
      await fc.assert(
        fc.asyncProperty(worlds, anyRule(condition), async (world, rule) => {
          let now = 0;
          const evaluator = evaluatorAt(world, () => now);
          const resolved = resolvedOf(world);
          const open: Opened = (at) => {
            now = at;
            const context = { evaluator, now: at as Instant, bandsOf };
            return signalSource(context, rule, resolved, arrivals(world, at), minute);
          };
          const whole = async (span: Range) => {
            now = Infinity;
            const context = { evaluator, now: span.to };
            const cells = await evaluated(context, resolved, span, minute);
            const lasts = cells.columns.map(() => null);
            return { ...cells, data: await conditionData(context, resolved, rule, cells, lasts, bandsOf) };
          };
          const { live: said, whole: expected, periods, livePeriods } = await compare(world, rule, open, whole);
          expect(said).to.deep.equal(expected);
          expect(livePeriods.sort()).to.deep.equal(periods.sort());
          raised += periods.length;
        }),
        { numRuns: 500 }
      );
      expect(raised, 'raised in all of these worlds').to.be.above(100);
    }).timeout(180_000);

  it('for combined, of two conditions on signals', async () => {
    const needs = fc.constantFrom<Condition>({ kind: 'combined', needs: 'any' }, { kind: 'combined', needs: 'all' });
    const parts: readonly Condition[] = [
      { kind: 'threshold', is: 'above', limit: 80 },
      { kind: 'threshold', is: 'below', limit: 24 }
    ];
    await fc.assert(
      fc.asyncProperty(anyWorld(false, 1), anyRule(needs), async (world, rule) => {
        let now = 0;
        const evaluator = evaluatorAt(world, () => now);
        const resolved = resolvedOf(world);
        const joined = async (span: Range, at: Instant, completeTo: Instant) => {
          const cells = await evaluated({ evaluator, now: at }, resolved, span, minute);
          const all = parts.map((condition) =>
            compareWith(condition, {
              grid: cells.grid,
              columns: cells.columns.map(({ values }) => values),
              zone: 'UTC'
            }).map((comparison) => ({ labels: {}, codes: codesOf(comparison, 0, cells.grid.count) }))
          );
          const [one] = combineParts(all, [], cells.grid.count);
          const columns = [{ labels: {}, values: one!.hold, newest: null, completeUntil: completeTo, seriesId: null }];
          const data = { grid: cells.grid, columns: [one!.hold], mayHold: [one!.mayHold], parts: 2, zone: 'UTC' };
          return { grid: cells.grid, columns, unit: '1', data: [data] };
        };
        const open: Opened = (at) => {
          now = at;
          // The gaps of a part are final when those of all are.
          const final = Math.min(...[...arrivals(world, at).values()].map(({ gapsFinal }) => gapsFinal)) as Instant;
          return {
            latest: final,
            isAppearing: false,
            inputs: 1,
            series: null,
            gapsFinal: () => null,
            endedAt: () => null,
            read: (span) => joined(span, at as Instant, final),
            watched: ({ labels }) => ({ key: JSON.stringify([]), labels, seriesId: null, accountId: null })
          };
        };
        const whole = (span: Range) => {
          now = Infinity;
          return joined(span, span.to, span.to);
        };
        const { live: said, whole: expected, periods, livePeriods } = await compare(world, rule, open, whole);
        expect(said).to.deep.equal(expected);
        expect(livePeriods).to.deep.equal(periods);
      }),
      { numRuns: 500 }
    );
  }).timeout(180_000);
});
