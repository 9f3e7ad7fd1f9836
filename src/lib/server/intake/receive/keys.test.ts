import { expect } from 'chai';
import { withDatabase } from '../../../../../tests/support/database';
import type { Instant } from '../../../core/time';
import type { Queryable } from '../../db/pool';
import { KeyUses } from './key-uses';
import { allKeys, bytesOn, keyByText, makeKey, noteUses, revokeKey, type Key } from './keys';

const day = 86_400_000;
const now = (20_000 * day) as Instant;
const later = (ms: number) => (now + ms) as Instant;

describe('keys', () => {
  const fixture = withDatabase();
  const make = (name: string, expiresAt: Instant | null = null) =>
    makeKey(fixture.db, { name, expiresAt, mostSeries: 10, mostBytesADay: 1000, createdAt: now, createdBy: 'test' });

  it('are found by their text alone, of which only a hash is kept', async () => {
    const { key, text } = await make('pusher');
    expect(text).to.match(/^bussola-[\w-]{32}$/);
    expect((await keyByText(fixture.db, text, now))?.id).to.equal(key.id);
    for (const wrong of [text.slice(0, -1), `${text} `, text.toLowerCase(), key.hint, ''])
      expect(await keyByText(fixture.db, wrong, now), wrong).to.equal(null);
    const stored = await fixture.db.rows('select * from keys');
    const accounts = await fixture.db.rows('select * from accounts');
    expect(JSON.stringify([stored, accounts])).not.to.contain(text.slice(14));
  });

  it('end when they run out, or at once when they are revoked', async () => {
    const { text } = await make('short-lived', later(day));
    expect(await keyByText(fixture.db, text, later(day - 1))).not.to.equal(null);
    expect(await keyByText(fixture.db, text, later(day))).to.equal(null);
    const { key, text: other } = await make('revoked');
    await revokeKey(fixture.db, key.id, later(5));
    await revokeKey(fixture.db, key.id, later(9));
    expect(await keyByText(fixture.db, other, now)).to.equal(null);
    expect((await allKeys(fixture.db)).find(({ id }) => id === key.id)?.revokedAt).to.equal(later(5));
  });

  it('count what they sent, by the day', async () => {
    const { key, text } = await make('counted');
    const used = async (at: Instant) => {
      const { lastUsedAt, ...key } = (await keyByText(fixture.db, text, at))!;
      return [bytesOn(key as Key, at), lastUsedAt];
    };
    await noteUses(fixture.db, [{ id: key.id, bytes: 400, at: now }]);
    await noteUses(fixture.db, [{ id: key.id, bytes: 300, at: later(day - 1) }]);
    expect(await used(now)).to.deep.equal([700, later(day - 1)]);
    await noteUses(fixture.db, [{ id: key.id, bytes: 5, at: later(day) }]);
    expect(await used(later(day))).to.deep.equal([5, later(day)]);
  });

  it('take no more than they may on a day, also from requests that come at once, and begin anew on the next', async () => {
    const { key, text } = await make('limited');
    const uses = new KeyUses(fixture.db, { error: () => undefined });
    // As requests that read the key before any of them was counted.
    expect([600, 300, 200, 100].map((bytes) => uses.take(key, bytes, now))).to.deep.equal([true, true, false, true]);
    await uses.write();
    const read = (await keyByText(fixture.db, text, now))!;
    expect(bytesOn(read, now)).to.equal(1000);
    expect(uses.take(read, 1, now)).to.equal(false);
    expect(new KeyUses(fixture.db, { error: () => undefined }).take(read, 1, now), 'after a restart').to.equal(false);
    expect(uses.take(read, 900, later(day))).to.equal(true);
    expect(uses.take(read, 200, later(day)), 'before it is written').to.equal(false);
    await uses.write();
    expect(bytesOn((await keyByText(fixture.db, text, later(day)))!, later(day))).to.equal(900);
  });

  it('lose no count when the database fails meanwhile', async () => {
    const { key, text } = await make('kept');
    let fails = true;
    const failing: Queryable = {
      rows: (statement, values) => (fails ? Promise.reject(new Error('gone')) : fixture.db.rows(statement, values))
    };
    const uses = new KeyUses(failing, { error: () => undefined });
    uses.take(key, 10, now);
    const failure = await uses.write().catch((error: Error) => error.message);
    expect(failure).to.equal('gone');
    uses.take(key, 7, now);
    fails = false;
    await uses.write();
    await uses.write();
    expect(bytesOn((await keyByText(fixture.db, text, now))!, now)).to.equal(17);
  });
});
