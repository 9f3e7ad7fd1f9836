import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { sealing } from '../../../../tests/support/sealing';
import { instant } from '../../core/time';
import {
  channelById,
  draftOf,
  insertChannel,
  insertEmailChannel,
  removeChannel,
  rotateSecret,
  secretOfChannel
} from './channels';
import { channelByToken, confirmByCode, confirmChannel, renewCode, renewToken } from './channel-confirmation';
import { linkMessage } from './confirm';

describe('channels', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);
  const add = (address: string) =>
    insertEmailChannel(fixture.db, { name: 'Night', address, createdAt: now, createdBy: 'Kaja Tamm' });

  it('are confirmed by the token that was mailed, of which only a hash is kept', async () => {
    const channel = await add('one@example.test');
    expect([channel.confirmedAt, channel.confirmSentAt]).to.deep.equal([null, null]);
    const token = await renewToken(fixture.db, channel.id, now);
    const [row] = await fixture.db.rows<{ hash: Buffer }>('select confirm_hash as hash from channels');
    expect(row?.hash.includes(token)).to.equal(false);
    expect(await channelByToken(fixture.db, 'guess', now)).to.equal(null);
    expect((await channelByToken(fixture.db, token, now))?.id).to.equal(channel.id);
    const week = 7 * 86_400_000;
    expect((await channelByToken(fixture.db, token, instant(now + week - 1)))?.id).to.equal(channel.id);
    expect(await channelByToken(fixture.db, token, instant(now + week + 1)), 'after a week').to.equal(null);
    await confirmChannel(fixture.db, channel.id, now);
    await confirmChannel(fixture.db, channel.id, instant(now + 5));
    expect((await channelById(fixture.db, channel.id))?.confirmedAt).to.equal(now);
  });

  it('sent a new link do not take the old one any more', async () => {
    const channel = await add('two@example.test');
    const token = await renewToken(fixture.db, channel.id, now);
    const renewed = await renewToken(fixture.db, channel.id, instant(now + 1));
    expect(await channelByToken(fixture.db, token, now)).to.equal(null);
    expect((await channelByToken(fixture.db, renewed, now))?.confirmSentAt).to.equal(now + 1);
    await removeChannel(fixture.db, channel.id);
    expect(await channelByToken(fixture.db, renewed, now)).to.equal(null);
  });

  it('have one address each', async () => {
    await add('three@example.test');
    const refused = await add('three@example.test').catch((error: unknown) => error);
    expect(refused)
      .to.be.instanceOf(Refusal)
      .with.property('message', 'There is a channel to three@example.test already.');
  });

  it('are asked by a mail that names who added them and leads to the page that asks', () => {
    const mail = linkMessage(
      { name: 'Night', address: 'one@example.test', createdBy: 'Kaja Tamm' },
      'tok',
      'https://bussola.example.test'
    );
    expect(mail.subject).to.equal('Confirm that Bussola may send alarms to one@example.test');
    expect(mail.sentence).to.contain('Kaja Tamm');
    expect(mail.link).to.equal('https://bussola.example.test/confirm/tok');
  });

  describe('that take no mail', () => {
    const hook = {
      kind: 'chat-hook',
      name: 'Bridge',
      address: 'https://chat.example.test/hooks/secret',
      template: ''
    } as const;
    const made = async () =>
      insertChannel(fixture.db, sealing, draftOf({ ...hook, address: `${hook.address}${Math.random()}` }), {
        at: now,
        by: 'x'
      });

    it('are confirmed by a code of six digits, within half an hour, after at most five wrong ones', async () => {
      const { id } = await made();
      const code = await renewCode(fixture.db, id, now);
      expect(code).to.match(/^\d{6}$/);
      const other = code === '000000' ? '000001' : '000000';
      expect(await confirmByCode(fixture.db, id, other, now)).to.equal(false);
      expect(await confirmByCode(fixture.db, id, code, instant(now + 1_800_001)), 'too late').to.equal(false);
      await Promise.all(Array.from({ length: 4 }, () => confirmByCode(fixture.db, id, other, now)));
      expect(await confirmByCode(fixture.db, id, code, now), 'after five wrong ones').to.equal(false);
      const renewed = await renewCode(fixture.db, id, now);
      expect(await confirmByCode(fixture.db, id, renewed, now)).to.equal(true);
      expect((await channelById(fixture.db, id))?.confirmedAt).to.equal(now);
      expect(await channelByToken(fixture.db, `${id} ${renewed}`, now), 'by its link').to.equal(null);
    });

    it('show nothing of what is secret in their address', async () => {
      const channel = await made();
      expect(channel.address).to.match(/^chat\.example\.test\/… \([0-9a-f]{6}\)$/);
      expect(JSON.stringify(channel)).not.to.contain('secret');
      expect((await secretOfChannel(fixture.db, sealing, channel.id)).url).to.contain('/hooks/secret');
    });

    it('sign with the secret before as well for a day after it was replaced', async () => {
      const draft = draftOf({ kind: 'webhook', name: 'Desk', address: 'https://desk.example.test/e', mode: 'binary' });
      const { id } = await insertChannel(fixture.db, sealing, draft, { at: now, by: 'x' });
      const [first] = (await secretOfChannel(fixture.db, sealing, id)).secrets ?? [];
      const second = await rotateSecret(fixture.db, sealing, id, now);
      const both = (await secretOfChannel(fixture.db, sealing, id)).secrets;
      expect(both).to.deep.equal([
        { secret: second, until: null },
        { secret: first?.secret, until: now + 86_400_000 }
      ]);
      await rotateSecret(fixture.db, sealing, id, instant(now + 86_400_000));
      expect((await secretOfChannel(fixture.db, sealing, id)).secrets?.map(({ secret }) => secret)).not.to.include(
        first?.secret
      );
    });
  });
});
