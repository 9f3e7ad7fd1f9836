import { expect } from 'chai';
import fc from 'fast-check';
import { anyLine, lineAt } from '../../../../tests/support/lines';
import { begin, hour, withLogStore } from '../../../../tests/support/log-store';
import { matcherOf, noOrigin, readSearch, searchedLine, severityName, type Line } from '../../core/logs';
import { instant, minute, range } from '../../core/time';
import { usualLimits } from './log-store';

describe('searching stored lines', () => {
  const logs = withLogStore();
  const { accounts, append, found, opened, sealAll, texts } = logs;

  it('finds lines as soon as they are kept, after they are sealed, and after a new start', async () => {
    expect(await append('quote', [lineAt(1, 'served fare PER-SEL'), lineAt(2, 'out of memory')])).to.equal(2);
    expect(await texts('')).to.deep.equal(['out of memory', 'served fare PER-SEL']);
    await sealAll();
    await append('quote', [lineAt(1.5, 'retry 1 of 3')]);
    const all = ['out of memory', 'retry 1 of 3', 'served fare PER-SEL'];
    expect(await texts('')).to.deep.equal(all);
    expect(logs.store.size()).to.include({ streams: 1, waiting: 1, segments: 1, sealed: 2 });
    const again = await opened();
    expect(await texts('', {}, again)).to.deep.equal(all);
    expect(await texts('memory', {}, again)).to.deep.equal(['out of memory']);
    await again.close();
  });

  it('knows how old the shape of a line was when it was written, sealed or not, and nothing of the first day of a stream', async () => {
    const day = 86_400;
    await append('quote', [lineAt(1, 'served fare 1'), lineAt(2, 'served fare 2')]);
    await append('quote', [lineAt(2 * day, 'served fare 3'), lineAt(2 * day + 60, 'pool of connections is empty')]);
    await append('quote', [lineAt(2 * day + 60 + 30 * 60, 'pool of connections is empty')]);
    await append('quote', [lineAt(2 * day + 60 + 90 * 60, 'pool of connections is empty')]);
    await append('other', [lineAt(2 * day, 'what comes first is not new')]);
    const days = { range: range(begin, instant(begin + 3 * day * 1000)) };
    for (const seal of [false, true]) {
      if (seal) await sealAll();
      expect(await texts('shape.age < 60', days)).to.deep.equal([
        'pool of connections is empty',
        'pool of connections is empty'
      ]);
      expect(await texts('shape.age >= 60', days)).to.deep.equal(['pool of connections is empty']);
      expect(await texts('not has shape.age', days)).to.have.length(4);
    }
  });

  it('finds and counts what trying each line finds and counts, sealed or not', async function () {
    this.timeout(180_000);
    const searches = [
      '',
      'order',
      '"paid in"',
      'order severity >= error',
      'not order',
      'has node',
      'fare or took',
      '*a*'
    ];
    for (const drafts of fc.sample(fc.array(anyLine, { minLength: 30, maxLength: 120 }), 5)) {
      await logs.database.db.rows('delete from log_streams');
      const kept: { stream: string; line: Line }[] = [];
      for (const [index, line] of drafts.entries()) {
        const stream = ['quote', 'checkout', 'seatmap'][index % 3] as string;
        kept.push({ stream, line: { ...line, origin: noOrigin, resourceId: null } });
        await append(stream, [line]);
        if (index % 31 === 30) await sealAll();
      }
      for (const text of searches) {
        const matcher = matcherOf(readSearch(text));
        const expected = kept
          .filter(({ stream, line }) =>
            matcher.matches(
              searchedLine(
                { ...line, shape: 0 },
                { service: 'functions', account: 'corallo-prod', stream, resourceName: () => undefined }
              )
            )
          )
          .map(({ line }) => line)
          .filter(({ at }) => at < hour.to);
        const progress = await found(text, { most: 10 });
        expect(progress.count, text).to.equal(expected.length);
        const newest = expected.toSorted((a, b) => b.at - a.at || b.nanos - a.nanos).slice(0, 10);
        expect(
          progress.lines.map(({ at, nanos }) => [at, nanos]),
          text
        ).to.deep.equal(newest.map(({ at, nanos }) => [at, nanos]));
        const bars = progress.bars.map((bar) => bar.reduce((sum, count) => sum + count, 0));
        expect(bars, text).to.deep.equal(
          bars.map((_, bar) => expected.filter(({ at }) => Math.floor((at - begin) / minute) === bar).length)
        );
        expect(progress.looked).to.equal(progress.all);
      }
    }
  });

  it('counts by shape what a search for each shape finds, sealed, waiting or some of each', async () => {
    const texts = (from: number) =>
      Array.from({ length: 400 }, (_, index) =>
        lineAt(
          from + index,
          index % 7 === 0 ? `refused ticket ${index} at gate ${index % 5}` : `order ${index} paid in ${index % 90} ms`,
          { severity: index % 7 === 0 ? 13 : 9 }
        )
      );
    await append('gate', texts(0));
    await append('quote', [lineAt(3, 'starting, 512 MiB'), ...texts(600)]);
    await logs.store.seal(begin, { ...usualLimits, lines: 1 });
    await append('quote', texts(1300));
    for (const search of ['', 'refused or starting', 'severity = warn', 'order 1*']) {
      const { shapes, shapesInAll, count } = await found(search);
      expect(shapes, search).to.have.length(shapesInAll);
      expect(shapes.reduce((sum, one) => sum + one.count, 0)).to.equal(count);
      for (const { streamId, shape, count: ofShape, all, text } of shapes) {
        const { name } = (await logs.store.streams()).find(({ id }) => id === streamId)!;
        expect((await found(`(${search || 'not nowhere'}) stream = ${name} shape = ${shape}`)).count, text).to.equal(
          ofShape
        );
        expect(all).to.equal((await found(`stream = ${name} shape = ${shape}`)).count);
      }
    }
  });

  it('counts by a field what trying each line counts, sealed or not', async () => {
    const streams = ['quote', 'gate'];
    const fields = ['node', 'user.id', 'duration_ms', 'severity', 'stream', 'trace', 'event', '__proto__'] as const;
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.array(anyLine, { minLength: 1, maxLength: 12 }), { minLength: 1, maxLength: 4 }),
        fc.constantFrom(...fields),
        fc.constantFrom('', 'order', 'severity >= warn', 'has node'),
        fc.boolean(),
        async (batches, by, text, isSealed) => {
          await logs.empty();
          const all = batches.flatMap((lines, index) =>
            lines.map((line) => ({
              line: { ...line, resourceId: null, origin: noOrigin },
              stream: streams[index % 2] ?? ''
            }))
          );
          for (const [index, { line, stream }] of all.entries()) {
            await append(stream, [line]);
            if (isSealed && index % 3 === 0) await logs.store.seal(begin, { ...usualLimits, lines: 100, waits: 0 });
          }
          const expected = new Map<string, number>();
          let count = 0;
          for (const { line, stream } of all) {
            const context = { service: 'functions', account: 'corallo-prod', stream, resourceName: () => '' };
            const searched = searchedLine({ ...line, shape: 0 }, context);
            if (line.at >= hour.to || !matcherOf(readSearch(text)).matches(searched)) continue;
            count++;
            const value = by === 'severity' ? (severityName(line.severity) ?? undefined) : searched.field(by);
            if (value === undefined || value === '') continue;
            const key = String(value).slice(0, 500);
            expected.set(key, (expected.get(key) ?? 0) + 1);
          }
          const query = { text, range: hour, accounts: null, resources: new Map<number, string>(), by, most: 1000 };
          const tally = await logs.store.tally(query, 10_000);
          expect(tally?.count).to.equal(count);
          expect(new Map(tally?.values.map((one) => [one.value, one.count]))).to.deep.equal(expected);
          expect([...expected.values()].reduce((sum, one) => sum + one, tally?.without ?? 0)).to.equal(count);
        }
      ),
      { numRuns: 25 }
    );
  });

  it('names the fields of a range, those of the most lines first', async () => {
    await append('gate', [
      lineAt(1, 'a', { fields: { gate: 4n, lane: 'b' } }),
      lineAt(2, 'b', { fields: { gate: 5n } })
    ]);
    await logs.store.seal(begin, { ...usualLimits, lines: 1 });
    await append('gate', [lineAt(3, 'c', { fields: { gate: 5n, crew: 'x' } })]);
    const names = await logs.store.fieldNames(hour, null);
    expect(names).to.deep.equal([
      { name: 'gate', lines: 3 },
      { name: 'crew', lines: 1 },
      { name: 'lane', lines: 1 }
    ]);
    expect(await logs.store.fieldNames(hour, [accounts[1] ?? 0])).to.deep.equal([]);
  });

  it('shows nobody lines of an account that they may not see', async () => {
    await append('quote', [lineAt(1, 'ours')]);
    await append('orders', [lineAt(2, 'theirs')], accounts[1]);
    expect(await texts('', { accounts: [accounts[0] ?? 0] })).to.deep.equal(['ours']);
    expect(await texts('', { accounts: [] })).to.deep.equal([]);
    await sealAll();
    expect(await texts('', { accounts: [accounts[1] ?? 0] })).to.deep.equal(['theirs']);
  });

  it('lists the beginning of a long line, and has all of it by its key', async () => {
    const long = `long ${'x'.repeat(100_000)} end`;
    await append('quote', [lineAt(1, long)]);
    for (const isSealed of [false, true]) {
      if (isSealed) await sealAll();
      const [line] = (await found('end')).lines;
      expect([line?.text.length, line?.isCut]).to.deep.equal([2000, true]);
      expect((await logs.store.line(line?.key ?? '', null))?.line.text).to.equal(long);
      expect(await logs.store.line(line?.key ?? '', []), 'of an account that may not be seen').to.equal(null);
    }
    expect(await logs.store.line('1-2-3-zz', null)).to.equal(null);
    expect(await logs.store.line("'; drop table", null)).to.equal(null);
  });

  it('has what stands around a moment of a stream, sealed or not', async () => {
    for (let index = 0; index < 9; index++) {
      await append('quote', [lineAt(index, `line ${index}`)]);
      await append('orders', [lineAt(index, 'of another stream')]);
      if (index % 4 === 3) await sealAll();
    }
    const [line] = (await found('"line 4"')).lines;
    const around = await logs.store.around(line?.streamId ?? 0, line?.at ?? begin, 3, null);
    expect(around.map(({ text }) => text)).to.deep.equal([1, 2, 3, 4, 5, 6].map((one) => `line ${one}`));
  });

  it('takes no more searches than it can do at once, and those again that were cancelled', async () => {
    const query = { text: '', range: hour, most: 1, step: minute, accounts: null, resources: new Map() };
    const tickets: number[] = [];
    for (let ticket = await logs.store.search(query); ticket !== null; ticket = await logs.store.search(query))
      tickets.push(ticket);
    expect(tickets).to.have.length(64);
    logs.store.cancel(tickets[0] ?? 0);
    expect(await logs.store.progress(tickets[0] ?? 0)).to.equal(null);
    expect(await logs.store.search(query)).to.be.a('number');
  });

  it('counts by bars that begin at whole numbers of their length, whatever the range', async () => {
    await append('quote', [lineAt(59, 'first'), lineAt(61, 'second'), lineAt(179, 'third')]);
    const within = range(instant(begin + 30_000), instant(begin + 185_000));
    for (const isSealed of [false, true]) {
      if (isSealed) await sealAll();
      const { barsFrom, bars } = await found('', { range: within });
      expect(barsFrom).to.equal(begin);
      expect(bars.map((bar) => bar.reduce((sum, count) => sum + count, 0))).to.deep.equal([1, 1, 1, 0]);
    }
  });
});
