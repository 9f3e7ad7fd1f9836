import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { createServer } from 'node:net';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { withDatabase } from '../../../../tests/support/database';
import { serveStandIns } from '../../../../stand-ins/serve';
import type { Message } from '../../core/notify';
import { instant } from '../../core/time';
import { channelByToken, confirmChannel, channelById, insertEmailChannel, removeChannel, renewToken } from './channels';
import { confirmMail } from './confirm';
import { mailHtml, smtpMailer } from './mail';

const hostile = '<img src=x onerror=alert(1)>"\'&';

describe('mail', () => {
  it('escapes whatever a provider or a person named', () => {
    const message: Message = {
      subject: hostile,
      heading: hostile,
      sentence: hostile,
      rows: [[hostile, hostile]],
      link: `https://bussola.example.test/"onclick="x`
    };
    const html = mailHtml(message, hostile);
    expect(html).not.to.contain('<img');
    expect(html).not.to.match(/href="[^"]*"onclick/);
    expect(html.match(/&lt;img/g)).to.have.length(5);
  });

  it('arrives with both parts, to that address only, and a line break in a subject makes no header', async () => {
    const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 });
    const mailer = smtpMailer(`smtp://127.0.0.1:${standIns.smtpPort}`, 'Bussola <bussola@example.test>');
    await mailer.send({
      to: 'nerea@example.test',
      subject: 'one\r\nBcc: everyone@example.test',
      text: 'plain',
      html: '<p>rich</p>'
    });
    mailer.close();
    const [mail] = standIns.mailbox.mails;
    expect(mail?.to).to.deep.equal(['nerea@example.test']);
    expect(mail?.subject.startsWith('one')).to.equal(true);
    expect([mail?.text.trim(), mail?.html.trim(), mail?.from]).to.deep.equal([
      'plain',
      '<p>rich</p>',
      '"Bussola" <bussola@example.test>'
    ]);
    await standIns.close();
  });

  it('fails with a reason when no server listens', async () => {
    const gone = createServer().listen(0, '127.0.0.1');
    await once(gone, 'listening');
    const { port } = gone.address() as AddressInfo;
    gone.close();
    await once(gone, 'close');
    const mailer = smtpMailer(`smtp://127.0.0.1:${port}`, 'bussola@example.test');
    const failure = await mailer
      .send({ to: 'nerea@example.test', subject: 's', text: 't', html: 'h' })
      .catch((error: unknown) => error);
    expect(failure).to.be.instanceOf(Error).with.property('message').that.contains('ECONNREFUSED');
    mailer.close();
  });
});

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
    const mail = confirmMail(
      { name: 'Night', address: 'one@example.test', createdBy: 'Kaja Tamm' },
      'tok',
      'https://bussola.example.test'
    );
    expect(mail.subject).to.equal('Confirm that Bussola may send alarms to one@example.test');
    for (const part of [mail.text, mail.html])
      expect(part).to.contain('Kaja Tamm').and.to.contain('https://bussola.example.test/confirm/tok');
  });
});
