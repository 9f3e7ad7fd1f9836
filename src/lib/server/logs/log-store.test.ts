import { expect } from 'chai';
import fc from 'fast-check';
import { withDatabase } from '../../../../tests/support/database';
import { anyLine, lineAt } from '../../../../tests/support/lines';
import {
  encodeBatch,
  matcherOf,
  noOrigin,
  readSearch,
  searchedLine,
  severityName,
  type Line,
  type LogProgress
} from '../../core/logs';
import { day, instant, minute, range } from '../../core/time';
import { oneRow, openPool } from '../db/pool';
import { until } from '../../../../tests/support/until';
import { examineLines } from './doctor';
import { linesDue } from './retention';
import type { LogQuery } from './log-search';
import { LogStore, usualLimits } from './log-store';

const begin = instant(1_777_881_600_000);
const hour = range(begin, instant(begin + 3_600_000));

describe('the store of lines', () => {
  const fixture = withDatabase();
  const accounts: number[] = [];
  let store: LogStore;

  const account = async (name: string): Promise<number> =>
    oneRow(
      await fixture.db.rows<{ id: number }>(
        `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
         values ($1, 'pushed', '', '', '', $2, '', $2)
         returning id`,
        [name, begin]
      )
    ).id;

  before(async () => {
    for (const name of ['corallo-prod', 'perla-data']) {
      accounts.push(await account(name));
    }
  });

  beforeEach(async () => {
    await fixture.db.rows('delete from log_streams');
    store = await opened();
  });
  afterEach(() => store.close());

  async function opened(): Promise<LogStore> {
    const one = new LogStore(openPool(fixture.connection, 2));
    await one.open();
    return one;
  }

  const append = (stream: string, lines: readonly Line[], accountId = accounts[0] ?? 0) =>
    store.append(begin, [
      { accountId, service: 'functions', stream, resourceId: null, batch: encodeBatch(noOrigin, lines) }
    ]);

  async function found(text: string, more: Partial<LogQuery> = {}, of = store): Promise<LogProgress> {
    const query = { text, range: hour, most: 100, step: minute, accounts: null, resources: new Map(), ...more };
    const ticket = await of.search(query);
    if (ticket === null) throw new Error('too many searches are under way');
    for (;;) {
      const progress = await of.progress(ticket);
      if (progress === null) throw new Error('the search is gone');
      if (progress.isDone) return progress;
    }
  }
  const texts = async (text: string, more: Partial<LogQuery> = {}, of = store) =>
    (await found(text, more, of)).lines.map((line) => line.text);
  const sealAll = (of = store) => of.seal(begin, { ...usualLimits, lines: 20, all: 0 });

  it('finds lines as soon as they are kept, after they are sealed, and after a new start', async () => {
    expect(await append('quote', [lineAt(1, 'served fare PER-SEL'), lineAt(2, 'out of memory')])).to.equal(2);
    expect(await texts('')).to.deep.equal(['out of memory', 'served fare PER-SEL']);
    await sealAll();
    await append('quote', [lineAt(1.5, 'retry 1 of 3')]);
    const all = ['out of memory', 'retry 1 of 3', 'served fare PER-SEL'];
    expect(await texts('')).to.deep.equal(all);
    expect(store.size()).to.include({ streams: 1, waiting: 1, segments: 1, sealed: 2 });
    const again = await opened();
    expect(await texts('', {}, again)).to.deep.equal(all);
    expect(await texts('memory', {}, again)).to.deep.equal(['out of memory']);
    await again.close();
  });

  it('finds and counts what trying each line finds and counts, sealed or not', async function () {
    this.timeout(60_000);
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
      await fixture.db.rows('delete from log_streams');
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
    await store.seal(begin, { ...usualLimits, lines: 1 });
    await append('quote', texts(1300));
    for (const search of ['', 'refused or starting', 'severity = warn', 'order 1*']) {
      const { shapes, shapesInAll, count } = await found(search);
      expect(shapes, search).to.have.length(shapesInAll);
      expect(shapes.reduce((sum, one) => sum + one.count, 0)).to.equal(count);
      for (const { streamId, shape, count: ofShape, all, text } of shapes) {
        const { name } = (await store.streams()).find(({ id }) => id === streamId)!;
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
          await fixture.db.rows('delete from log_streams');
          await store.close();
          store = await opened();
          const all = batches.flatMap((lines, index) =>
            lines.map((line) => ({
              line: { ...line, resourceId: null, origin: noOrigin },
              stream: streams[index % 2] ?? ''
            }))
          );
          for (const [index, { line, stream }] of all.entries()) {
            await append(stream, [line]);
            if (isSealed && index % 3 === 0) await store.seal(begin, { ...usualLimits, lines: 100, waits: 0 });
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
          const tally = await store.tally(query, 10_000);
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
    await store.seal(begin, { ...usualLimits, lines: 1 });
    await append('gate', [lineAt(3, 'c', { fields: { gate: 5n, crew: 'x' } })]);
    const names = await store.fieldNames(hour, null);
    expect(names).to.deep.equal([
      { name: 'gate', lines: 3 },
      { name: 'crew', lines: 1 },
      { name: 'lane', lines: 1 }
    ]);
    expect(await store.fieldNames(hour, [accounts[1] ?? 0])).to.deep.equal([]);
  });

  it('seals lines of each day apart, so that a search of some hours passes over the others', async () => {
    await append('quote', [
      lineAt(0, 'now'),
      lineAt(9, 'now'),
      ...[1, 2, 3].map((days) => lineAt(-86_400 * days, 'then'))
    ]);
    await store.seal(begin, { ...usualLimits, lines: 5 });
    expect(store.size()).to.include({ segments: 4, sealed: 5 });
    expect(await found('')).to.include({ count: 2, all: 2 });
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
      expect((await store.line(line?.key ?? '', null))?.line.text).to.equal(long);
      expect(await store.line(line?.key ?? '', []), 'of an account that may not be seen').to.equal(null);
    }
    expect(await store.line('1-2-3-zz', null)).to.equal(null);
    expect(await store.line("'; drop table", null)).to.equal(null);
  });

  it('has what stands around a moment of a stream, sealed or not', async () => {
    for (let index = 0; index < 9; index++) {
      await append('quote', [lineAt(index, `line ${index}`)]);
      await append('orders', [lineAt(index, 'of another stream')]);
      if (index % 4 === 3) await sealAll();
    }
    const [line] = (await found('"line 4"')).lines;
    const around = await store.around(line?.streamId ?? 0, line?.at ?? begin, 3, null);
    expect(around.map(({ text }) => text)).to.deep.equal([1, 2, 3, 4, 5, 6].map((one) => `line ${one}`));
  });

  it('tells whoever follows what arrives, once, and counts what it had to skip', async () => {
    const accountId = accounts[0] ?? 0;
    const query = { text: 'refused', accounts: null, resources: new Map<number, string>() };
    const ticket = await store.follow(query);
    const ofOthers = await store.follow({ ...query, accounts: [accounts[1] ?? 0] });
    if (ticket === null || ofOthers === null) throw new Error('too many follow');
    await append('gate', [lineAt(-60, 'refused, an hour ago', { at: instant(begin - 3_600_000) })]);
    await append('gate', [lineAt(1, 'ticket accepted'), lineAt(2, 'ticket refused'), lineAt(3, 'refused again')]);
    await store.streams(); // waits for its turn
    const first = await store.followed(ticket);
    expect(first).to.include({ skipped: 0, looked: 3 });
    expect(first?.lines.map(({ text, marks }) => [text, marks])).to.deep.equal([
      ['ticket refused', [[7, 14]]],
      ['refused again', [[0, 7]]]
    ]);
    expect(await store.followed(ticket)).to.deep.equal({ lines: [], skipped: 0, looked: 0 });
    expect((await store.followed(ofOthers))?.lines).to.deep.equal([]);
    await append(
      'gate',
      Array.from({ length: 700 }, (_, index) => lineAt(4 + index / 10, `refused ${index}`)),
      accountId
    );
    await store.streams();
    const many = await store.followed(ticket);
    expect([many?.lines.length, many?.lines.at(-1)?.text, many?.skipped]).to.deep.equal([500, 'refused 699', 200]);
    store.unfollow(ticket);
    expect(await store.followed(ticket)).to.equal(null);
  });

  it('follows what another process keeps', async () => {
    const other = await opened();
    const ticket = await other.follow({ text: '', accounts: null, resources: new Map<number, string>() });
    await append('gate', [lineAt(2, 'ticket refused')]);
    await until('the line', async () => ((await other.followed(ticket ?? 0))?.lines.length ?? 0) === 1);
    await other.close();
  });

  it('removes what is older than its plan says, and nothing else', async () => {
    await append('gate', [lineAt(0, 'old'), lineAt(1, 'older', { at: instant(begin - day) })]);
    await store.seal(begin, { ...usualLimits, lines: 1 });
    await append('gate', [lineAt(3600, 'newer')]);
    await store.seal(begin, { ...usualLimits, lines: 1 });
    const due = async (days: number) =>
      (await linesDue(fixture.db, instant(begin + days * day))).reduce((sum, { lines }) => sum + lines, 0);
    expect([await due(28), await due(30), await due(30.02), await due(30.05)]).to.deep.equal([0, 1, 2, 3]);
    const supposed = { accountId: accounts[0] ?? 0, service: 'functions', lineDays: 1 };
    expect(await linesDue(fixture.db, instant(begin + 1.02 * day), supposed)).to.have.length(1);
    expect(await store.retain(instant(begin + 28 * day))).to.equal(0);
    expect(await store.retain(instant(begin + 30.02 * day))).to.equal(2);
    const all = range(instant(begin - 2 * day), instant(begin + day));
    expect((await found('', { range: all, step: day })).lines.map(({ text }) => text)).to.deep.equal(['newer']);
    expect((await examineLines(fixture.db)).findings).to.deep.equal([]);
  });

  it('takes no more searches than it can do at once, and those again that were cancelled', async () => {
    const query = { text: '', range: hour, most: 1, step: minute, accounts: null, resources: new Map() };
    const tickets: number[] = [];
    for (let ticket = await store.search(query); ticket !== null; ticket = await store.search(query))
      tickets.push(ticket);
    expect(tickets).to.have.length(64);
    store.cancel(tickets[0] ?? 0);
    expect(await store.progress(tickets[0] ?? 0)).to.equal(null);
    expect(await store.search(query)).to.be.a('number');
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

  it('seals what is much, and what has waited a day', async () => {
    await append(
      'quote',
      Array.from({ length: 45 }, (_, index) => lineAt(index, `order ${index} paid`))
    );
    await append('orders', [lineAt(1, 'alone')]);
    expect(await store.seal(begin, { ...usualLimits, lines: 20 }), 'what is much').to.equal(45);
    expect(store.size()).to.include({ waiting: 1, segments: 3, sealed: 45 });
    expect(await store.seal(instant(begin + day - 1))).to.equal(0);
    expect(await store.seal(instant(begin + day))).to.equal(1);
    expect(await fixture.db.rows('select id from log_journal')).to.deep.equal([]);
    expect(await texts('alone')).to.deep.equal(['alone']);
  });

  it('seals what is large, and what arrives waits for that while too much is held', async () => {
    const large = 'x'.repeat(200_000);
    for (let index = 0; index < 4; index++) await append(`stream ${index}`, [lineAt(index, large)]);
    expect(await store.seal(begin, { ...usualLimits, bytes: 500_000 })).to.equal(2);
    const small = new LogStore(openPool(fixture.connection, 2), 300_000);
    await small.open();
    expect(small.size()).to.include({ waiting: 2 });
    const one = { accountId: accounts[0] ?? 0, service: 'functions', stream: 'stream 5', resourceId: null };
    await small.append(begin, [{ ...one, batch: encodeBatch(noOrigin, [lineAt(5, 'small')]) }]);
    expect(small.size()).to.include({ segments: 4, sealed: 4 });
    expect(await texts('', {}, small)).to.have.length(5);
    await small.close();
  });

  it('reads what is whole where a batch of the journal is damaged, and keeps the damaged one for the doctor', async () => {
    await append('quote', [lineAt(1, 'damaged')]);
    await append('quote', [lineAt(2, 'whole')]);
    await fixture.db.rows(`update log_journal set batch = '\\x00' where id = (select min(id) from log_journal)`);
    const fresh = await opened();
    expect(await texts('', {}, fresh)).to.deep.equal(['whole']);
    await sealAll(fresh);
    expect(await texts('', {}, fresh)).to.deep.equal(['whole']);
    await fresh.close();
    const { findings, waiting } = await examineLines(fixture.db);
    expect(waiting).to.equal(1);
    expect(findings).to.have.length(1);
    expect(findings[0]).to.match(/^Batch \d+ of lines cannot be read: /);
  });

  it('knows what another process keeps and seals', async () => {
    const other = await opened();
    await append('quote', [lineAt(1, 'first')]);
    expect(await texts('', {}, other)).to.deep.equal(['first']);
    await sealAll(other);
    await append('quote', [lineAt(2, 'second')]);
    expect(await texts('')).to.deep.equal(['second', 'first']);
    expect(await texts('', {}, other)).to.deep.equal(['second', 'first']);
    await other.close();
  });

  it('finds all else where a segment is damaged, which the doctor names', async () => {
    await append('quote', [lineAt(1, 'damaged')]);
    await sealAll();
    await append('quote', [lineAt(2, 'whole')]);
    await sealAll();
    expect((await examineLines(fixture.db)).findings).to.deep.equal([]);
    await fixture.db.rows('update log_segments set parts = overlay(parts placing $1 from 1) where from_at = $2', [
      Buffer.from('nonsense'),
      begin + 1000
    ]);
    const fresh = await opened();
    expect(await texts('', {}, fresh)).to.deep.equal(['whole']);
    await fresh.close();
    const [finding, ...more] = (await examineLines(fixture.db)).findings;
    expect(finding).to.match(/^Segment \d+ of stream \d+ cannot be read: /);
    expect(more).to.deep.equal([]);
  });

  it('lets go of an account that is removed', async () => {
    const gone = await account('gone');
    await append('quote', [lineAt(1, 'of an account that goes')], gone);
    await sealAll();
    await append('quote', [lineAt(2, 'of it, too')], gone);
    await fixture.db.rows('delete from accounts where id = $1', [gone]);
    expect(await texts('')).to.deep.equal([]);
    await append('quote', [lineAt(3, 'stays')]);
    expect(await texts('')).to.deep.equal(['stays']);
  });
});
