import { expect } from 'chai';
import fc from 'fast-check';
import { anyLine, lineAt } from '../../../../tests/support/lines';
import { begin, withLogStore } from '../../../../tests/support/log-store';
import { matcherOf, noOrigin, numberOf, readSearch, searchedLine, severityName } from '../../core/logs';
import { duration, gridOver, instant, minute, range, times, type Duration } from '../../core/time';
import type { CountsQuery } from './log-counts';
import { usualLimits } from './log-store';

const patience = 60_000;

describe('counting stored lines cell by cell', () => {
  const logs = withLogStore();
  const { accounts, append } = logs;
  const seal = () => logs.store.seal(begin, { ...usualLimits, lines: 1 });
  const asked = (text: string, more: Partial<CountsQuery> = {}): CountsQuery => ({
    ...{ search: readSearch(text), grid: gridOver(range(begin, instant(begin + 3_600_000)), times(5, minute)) },
    ...{ by: [], of: null, pattern: null, most: 100, accounts: null, resources: new Map<number, string>() },
    ...more
  });
  async function counted(query: CountsQuery) {
    const result = await logs.store.counted(query, patience);
    if (result === null) throw new Error('it took too long');
    return result;
  }
  const cellsOf = async (query: CountsQuery) =>
    Object.fromEntries((await counted(query)).groups.map(({ values, cells }) => [String(values), [...cells]]));

  it('agrees with trying each line, sealed or not, whatever it is told apart by', async () => {
    const search = fc.constantFrom(
      '',
      'order',
      'severity >= warn',
      'not paid',
      'has node',
      'fare or seats',
      'stream = one'
    );
    const by = fc.constantFrom<string[]>(
      [],
      ['severity'],
      ['stream'],
      ['severity', 'stream'],
      ['node'],
      ['user.id', 'severity']
    );
    const of = fc.constantFrom(
      null,
      { field: 'duration_ms', statistic: 'sum' as const },
      { field: 'node', statistic: 'max' as const }
    );
    const step = fc.constantFrom<Duration>(minute, times(5, minute), times(30, minute));
    await fc.assert(
      fc.asyncProperty(
        fc.array(anyLine, { minLength: 1, maxLength: 40 }),
        fc.array(anyLine, { maxLength: 20 }),
        ...([search, by, of, step] as const),
        async (first, second, text, names, field, cell) => {
          await logs.empty();
          await append('one', first);
          await seal();
          await append('two', second);
          const grid = gridOver(range(begin, instant(begin + 3_600_000)), cell);
          const query = asked(text, { grid, by: names, of: field });
          const wanted = new Map<string, Float64Array>();
          const lacking = new Float64Array(grid.count);
          const matcher = matcherOf(readSearch(text));
          for (const [stream, lines] of [
            ['one', first],
            ['two', second]
          ] as const)
            for (const line of lines) {
              // What batches store comes back with origins of their batch.
              const context = { service: 'functions', account: 'corallo-prod', stream, resourceName: () => undefined };
              const looked = searchedLine({ ...line, origin: noOrigin, shape: 0 }, context);
              if (!matcher.matches(looked)) continue;
              const value = field === null ? 1 : numberOf(looked.field(field.field) ?? '');
              const at = Math.floor((line.at - grid.start) / grid.step);
              if (at < 0 || at >= grid.count) continue;
              if (Number.isNaN(value)) lacking[at] = (lacking[at] ?? 0) + 1;
              if (Number.isNaN(value)) continue;
              const valueOf = (name: string) =>
                name === 'severity' ? (severityName(line.severity) ?? '') : String(looked.field(name) ?? '');
              const key = String(names.map((name) => valueOf(name).slice(0, 200)));
              const cells = wanted.get(key) ?? new Float64Array(grid.count).fill(field === null ? 0 : NaN);
              const known = cells[at] as number;
              cells[at] = Number.isNaN(known)
                ? value
                : field?.statistic === 'max'
                  ? Math.max(known, value)
                  : known + value;
              wanted.set(key, cells);
            }
          const told = await counted(query);
          expect(told.lacking, 'lines without the number').to.deep.equal(field === null ? null : lacking);
          expect(new Set(told.groups.map(({ values }) => String(values)))).to.deep.equal(new Set(wanted.keys()));
          for (const { values, cells } of told.groups) {
            const expected = wanted.get(String(values)) as Float64Array;
            for (const [index, value] of cells.entries()) {
              const other = expected[index] as number;
              if (!Number.isFinite(other)) continue; // infinities add up to nothing in particular
              expect(Math.abs(value - other), `${String(values)} ${index}`).to.be.at.most(
                1e-9 * Math.max(1, Math.abs(other))
              );
            }
          }
        }
      ),
      { numRuns: 60 }
    );
  }).timeout(300_000);

  it('reads fields from texts by a pattern, also those that the search asks for, and counts what does not match', async () => {
    const answers = [200, 200, 503, 500, 200].map((status, index) =>
      lineAt(index * 60, `GET /fares answered ${status} in ${10 * (index + 1)} ms`)
    );
    await append('gate', [...answers, lineAt(30, 'starting')]);
    const pattern = { kind: 'text', text: 'answered ‹status:number› in ‹ms:number› ms' } as const;
    const grid = gridOver(range(begin, instant(begin + 300_000)), times(5, minute));
    for (const sealed of [false, true]) {
      if (sealed) await seal();
      const by = await counted(asked('', { grid, by: ['status'], pattern }));
      expect(by.groups.map(({ values, lines }) => [String(values), lines])).to.deep.equal([
        ['200', 3],
        ['500', 1],
        ['503', 1]
      ]);
      expect([by.lines, by.unmatched]).to.deep.equal([5, 1]);
      expect(await cellsOf(asked('status >= 500', { grid, pattern }))).to.deep.equal({ '': [2] });
      expect(await cellsOf(asked('not status = 200 fares', { grid, pattern }))).to.deep.equal({ '': [2] });
      const slow = asked('', { grid, of: { field: 'ms', statistic: 'median' }, pattern });
      expect(await cellsOf(slow)).to.deep.equal({ '': [30] });
    }
  });

  it('counts lines of accounts that may be seen only, and says since when there are any', async () => {
    await append('one', [lineAt(60, 'here'), lineAt(120, 'here')]);
    await append('two', [lineAt(30, 'there')], accounts[1]);
    await seal();
    const own = await counted(asked('', { accounts: [accounts[0] ?? 0] }));
    expect([own.lines, own.since - begin]).to.deep.equal([2, 60_000]);
    expect((await counted(asked('', { accounts: [] }))).lines).to.equal(0);
    const all = await counted(asked('', { by: ['account'] }));
    expect(all.groups.map(({ values, lines }) => [String(values), lines])).to.deep.equal([
      ['corallo-prod', 2],
      ['perla-data', 1]
    ]);
    expect((await counted(asked('service = clusters'))).since).to.equal(Infinity);
  });

  it('gives up where it takes longer than somebody is patient', async () => {
    await append('one', [lineAt(60, 'here')]);
    expect(await logs.store.counted(asked(''), -1)).to.equal(null);
    expect(
      await logs.store.counted(asked('', { grid: gridOver(range(begin, begin), duration(60_000)) }), patience)
    ).not.to.equal(undefined);
  });
});
