import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import type { Instant } from '../../core/time';
import { allKeys, bytesOn, keyByText, makeKey, noteUse, revokeKey } from './keys';

const day = 86_400_000;
const now = (20_000 * day) as Instant;
const later = (ms: number) => (now + ms) as Instant;

describe('keys', () => {
  const held = withDatabase();
  const make = (name: string, expiresAt: Instant | null = null) =>
    makeKey(held.db, { name, expiresAt, mostSeries: 10, mostBytesADay: 1000, createdAt: now, createdBy: 'test' });

  it('are found by their text alone, of which only a hash is kept', async () => {
    const { key, text } = await make('pusher');
    expect(text).to.match(/^bussola-[\w-]{32}$/);
    expect((await keyByText(held.db, text, now))?.id).to.equal(key.id);
    for (const wrong of [text.slice(0, -1), `${text} `, text.toLowerCase(), key.hint, ''])
      expect(await keyByText(held.db, wrong, now), wrong).to.equal(null);
    const stored = await held.db.rows('select * from keys');
    const accounts = await held.db.rows('select * from accounts');
    expect(JSON.stringify([stored, accounts])).not.to.contain(text.slice(14));
  });

  it('end when they run out, or at once when they are revoked', async () => {
    const { text } = await make('short-lived', later(day));
    expect(await keyByText(held.db, text, later(day - 1))).not.to.equal(null);
    expect(await keyByText(held.db, text, later(day))).to.equal(null);
    const { key, text: other } = await make('revoked');
    await revokeKey(held.db, key.id, later(5));
    await revokeKey(held.db, key.id, later(9));
    expect(await keyByText(held.db, other, now)).to.equal(null);
    expect((await allKeys(held.db)).find(({ id }) => id === key.id)?.revokedAt).to.equal(later(5));
  });

  it('count what they sent, by the day', async () => {
    const { key, text } = await make('counted');
    await noteUse(held.db, key.id, 400, now);
    await noteUse(held.db, key.id, 300, later(day - 1));
    const used = (await keyByText(held.db, text, now))!;
    expect([bytesOn(used, now), bytesOn(used, later(day)), used.lastUsedAt]).to.deep.equal([700, 0, later(day - 1)]);
    await noteUse(held.db, key.id, 5, later(day));
    expect(bytesOn((await keyByText(held.db, text, now))!, later(day))).to.equal(5);
  });
});
