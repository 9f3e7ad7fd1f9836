import { expect } from 'chai';
import { lineAt } from '../../../../tests/support/lines';
import { begin, withLogStore } from '../../../../tests/support/log-store';
import { until } from '../../../../tests/support/until';
import { encodeBatch, noOrigin } from '../../core/logs';
import { day, instant, range } from '../../core/time';
import { openPool } from '../db/pool';
import { examineLines } from './doctor';
import { LogStore, usualLimits } from './log-store';
import { linesDue } from './retention';

describe('the store of lines', () => {
  const logs = withLogStore();
  const { accounts, append, found, opened, sealAll, texts } = logs;

  it('seals lines of each day apart, so that a search of some hours passes over the others', async () => {
    await append('quote', [
      lineAt(0, 'now'),
      lineAt(9, 'now'),
      ...[1, 2, 3].map((days) => lineAt(-86_400 * days, 'then'))
    ]);
    await logs.store.seal(begin, { ...usualLimits, lines: 5 });
    expect(logs.store.size()).to.include({ segments: 4, sealed: 5 });
    expect(await found('')).to.include({ count: 2, all: 2 });
  });

  it('tells whoever follows what arrives, once, and counts what it had to skip', async () => {
    const accountId = accounts[0] ?? 0;
    const query = { text: 'refused', accounts: null, resources: new Map<number, string>() };
    const ticket = await logs.store.follow(query);
    const ofOthers = await logs.store.follow({ ...query, accounts: [accounts[1] ?? 0] });
    if (ticket === null || ofOthers === null) throw new Error('too many follow');
    await append('gate', [lineAt(-60, 'refused, an hour ago', { at: instant(begin - 3_600_000) })]);
    await append('gate', [lineAt(1, 'ticket accepted'), lineAt(2, 'ticket refused'), lineAt(3, 'refused again')]);
    await logs.store.streams(); // waits for its turn
    const first = await logs.store.followed(ticket);
    expect(first).to.include({ skipped: 0, looked: 3 });
    expect(first?.lines.map(({ text, marks }) => [text, marks])).to.deep.equal([
      ['ticket refused', [[7, 14]]],
      ['refused again', [[0, 7]]]
    ]);
    expect(await logs.store.followed(ticket)).to.deep.equal({ lines: [], skipped: 0, looked: 0 });
    expect((await logs.store.followed(ofOthers))?.lines).to.deep.equal([]);
    await append(
      'gate',
      Array.from({ length: 700 }, (_, index) => lineAt(4 + index / 10, `refused ${index}`)),
      accountId
    );
    await logs.store.streams();
    const many = await logs.store.followed(ticket);
    expect([many?.lines.length, many?.lines.at(-1)?.text, many?.skipped]).to.deep.equal([200, 'refused 699', 500]);
    logs.store.unfollow(ticket);
    expect(await logs.store.followed(ticket)).to.equal(null);
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
    await logs.store.seal(begin, { ...usualLimits, lines: 1 });
    await append('gate', [lineAt(3600, 'newer')]);
    await logs.store.seal(begin, { ...usualLimits, lines: 1 });
    const due = async (days: number) =>
      (await linesDue(logs.database.db, instant(begin + days * day))).reduce((sum, { lines }) => sum + lines, 0);
    expect([await due(28), await due(30), await due(30.02), await due(30.05)]).to.deep.equal([0, 1, 2, 3]);
    const supposed = { accountId: accounts[0] ?? 0, service: 'functions', lineDays: 1 };
    expect(await linesDue(logs.database.db, instant(begin + 1.02 * day), supposed)).to.have.length(1);
    expect(await logs.store.retain(instant(begin + 28 * day))).to.equal(0);
    expect(await logs.store.retain(instant(begin + 30.02 * day))).to.equal(2);
    const all = range(instant(begin - 2 * day), instant(begin + day));
    expect((await found('', { range: all, step: day })).lines.map(({ text }) => text)).to.deep.equal(['newer']);
    expect((await examineLines(logs.database.db)).findings).to.deep.equal([]);
  });

  it('seals what is much, and what has waited a day', async () => {
    await append(
      'quote',
      Array.from({ length: 45 }, (_, index) => lineAt(index, `order ${index} paid`))
    );
    await append('orders', [lineAt(1, 'alone')]);
    expect(await logs.store.seal(begin, { ...usualLimits, lines: 20 }), 'what is much').to.equal(45);
    expect(logs.store.size()).to.include({ waiting: 1, segments: 3, sealed: 45 });
    expect(await logs.store.seal(instant(begin + day - 1))).to.equal(0);
    expect(await logs.store.seal(instant(begin + day))).to.equal(1);
    expect(await logs.database.db.rows('select id from log_journal')).to.deep.equal([]);
    expect(await texts('alone')).to.deep.equal(['alone']);
  });

  it('seals what is large, and what arrives waits for that while too much is held', async () => {
    const large = 'x'.repeat(200_000);
    for (let index = 0; index < 4; index++) await append(`stream ${index}`, [lineAt(index, large)]);
    expect(await logs.store.seal(begin, { ...usualLimits, bytes: 500_000 })).to.equal(2);
    const small = new LogStore(openPool(logs.database.connection, 2), 300_000);
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
    await logs.database.db.rows(`update log_journal set batch = '\\x00' where id = (select min(id) from log_journal)`);
    const fresh = await opened();
    expect(await texts('', {}, fresh)).to.deep.equal(['whole']);
    await sealAll(fresh);
    expect(await texts('', {}, fresh)).to.deep.equal(['whole']);
    await fresh.close();
    const { findings, waiting } = await examineLines(logs.database.db);
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
    expect((await examineLines(logs.database.db)).findings).to.deep.equal([]);
    await logs.database.db.rows('update log_segments set parts = overlay(parts placing $1 from 1) where from_at = $2', [
      Buffer.from('nonsense'),
      begin + 1000
    ]);
    const fresh = await opened();
    expect(await texts('', {}, fresh)).to.deep.equal(['whole']);
    await fresh.close();
    const [finding, ...more] = (await examineLines(logs.database.db)).findings;
    expect(finding).to.match(/^Segment \d+ of stream \d+ cannot be read: /);
    expect(more).to.deep.equal([]);
  });

  it('lets go of an account that is removed', async () => {
    const gone = await logs.addAccount('gone');
    await append('quote', [lineAt(1, 'of an account that goes')], gone);
    await sealAll();
    await append('quote', [lineAt(2, 'of it, too')], gone);
    await logs.database.db.rows('delete from accounts where id = $1', [gone]);
    expect(await texts('')).to.deep.equal([]);
    await append('quote', [lineAt(3, 'stays')]);
    expect(await texts('')).to.deep.equal(['stays']);
  });
});
