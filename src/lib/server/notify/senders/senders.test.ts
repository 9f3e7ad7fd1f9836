import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { createServer, type IncomingHttpHeaders } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { serveStandIns, type StandIns } from '../../../../../stand-ins/serve';
import { gatewayToken } from '../../../../../stand-ins/messaging/phone';
import { incidentContent } from '../../../../../tests/support/incidents';
import { outgoing } from '../../../../../tests/support/outgoing';
import { instant } from '../../../core/time';
import { systemClock } from '../../base/clock';
import { outboundTo } from '../../providers/port/outbound';
import { chatTemplateProblem } from './chat-hook/chat-body';
import { chatHookSender } from './chat-hook/chat-hook';
import { NotTaken } from './sender';
import { textMessageSender } from './text-message/text-message';
import { webhookSender } from './webhook/webhook';

const origin = 'https://bussola.example.test';
const secretA = `whsec_${Buffer.alloc(32, 1).toString('base64')}`;
const secretB = `whsec_${Buffer.alloc(32, 2).toString('base64')}`;

describe('messages other than mail', () => {
  let standIns: StandIns;
  const call = outboundTo(['127.0.0.1']);
  const now = () => systemClock.now();
  before(async () => (standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 })));
  after(() => standIns.close());
  const failureOf = async (sending: Promise<unknown>) =>
    sending.then(
      () => null,
      (error: unknown) => error
    );

  describe('a signed webhook', () => {
    const toDesk = (mode: 'structured' | 'binary', key: string) =>
      outgoing({
        ...{ key, at: now(), thread: 'incident-7' },
        channel: { kind: 'webhook', address: `${standIns.url}/desk/events`, settings: { mode } },
        secret: { secrets: [{ secret: secretA, until: null }] }
      });
    const send = (message: Parameters<ReturnType<typeof webhookSender>['send']>[0]) =>
      webhookSender(call, origin).send(message);

    for (const mode of ['structured', 'binary'] as const)
      it(`is verified by the standard’s own library and read as a CloudEvent, ${mode}`, async () => {
        standIns.desk.secret = secretA;
        const { answer } = await send(toDesk(mode, `key-${mode}`));
        expect(answer).to.match(/^204/);
        expect(standIns.desk.events.all[0]).to.include({
          ...{ id: `key-${mode}`, mode, type: 'bussola.incident.raised', verified: true },
          summary: 'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 08:00'
        });
      });

    it('is verified with either secret while they are exchanged, with the new one alone after it', async () => {
      const exchanged = {
        secrets: [
          { secret: secretB, until: null },
          { secret: secretA, until: instant(now() + 60_000) }
        ]
      };
      for (const secret of [secretA, secretB]) {
        standIns.desk.secret = secret;
        await send({ ...toDesk('structured', `exchange-${secret}`), secret: exchanged });
      }
      standIns.desk.secret = secretA;
      const over = {
        secrets: [
          { secret: secretB, until: null },
          { secret: secretA, until: instant(now() - 1) }
        ]
      };
      const failure = await failureOf(send({ ...toDesk('structured', 'after'), secret: over }));
      expect(failure).to.be.instanceOf(NotTaken).with.property('message').that.contains('401');
    });

    it('cannot be forged, changed or replayed later', async () => {
      let request = { headers: {} as IncomingHttpHeaders, body: '' };
      const recorder = createServer((incoming, response) => {
        let body = '';
        incoming.on('data', (part: Buffer) => (body += part.toString()));
        incoming.on('end', () => {
          request = { headers: incoming.headers, body };
          response.end();
        });
      }).listen(0, '127.0.0.1');
      await once(recorder, 'listening');
      const address = `http://127.0.0.1:${(recorder.address() as AddressInfo).port}/`;
      await send({ ...toDesk('structured', 'k'), channel: { ...toDesk('structured', 'k').channel, address } });
      recorder.close();
      const headers = request.headers as Record<string, string>;
      const verify =
        (body: string, secret = secretA, more = {}) =>
        () =>
          new Webhook(secret).verify(body, { ...headers, ...more });
      expect(verify(request.body)).not.to.throw();
      expect(verify(request.body, secretB)).to.throw();
      expect(verify(request.body.replace('booking-web-2', 'gate-api-1'))).to.throw();
      expect(verify(request.body, secretA, { 'webhook-id': 'other' })).to.throw();
      expect(
        verify(request.body, secretA, { 'webhook-timestamp': String(Math.floor(now() / 1000) - 3600) })
      ).to.throw();
    });

    it('is not taken by a receiver that refuses, and says what was answered', async () => {
      standIns.desk.behaving.current = 'refuse';
      const failure = (await failureOf(send(toDesk('structured', 'refused')))) as NotTaken;
      standIns.desk.behaving.current = 'well';
      expect(failure.message).to.match(/^answered 503/);
      expect(failure.exchange.answer).to.contain('refused on purpose');
      expect(failure.exchange.request).to.contain('bussola.incident.raised').and.not.to.contain(secretA);
    });

    it('is sent once more after an answer that was cut off, and is one event by its id', async () => {
      standIns.desk.secret = secretA;
      standIns.desk.behaving.current = 'cut';
      expect(await failureOf(send(toDesk('binary', 'cut')))).to.be.instanceOf(Error);
      standIns.desk.behaving.current = 'well';
      await send(toDesk('binary', 'cut'));
      expect(standIns.desk.events.all.filter(({ id }) => id === 'cut')).to.have.length(1);
    });

    it('is never sent to an address that the policy does not permit, nor where it is sent on to', async () => {
      const inside = outgoing({ channel: { kind: 'webhook', address: 'http://169.254.169.254/latest' } });
      const reason = ((await failureOf(send(inside))) as Error).cause as Error;
      expect(reason.message).to.contain('never called');
      const redirecting = createServer((_incoming, response) => {
        response.writeHead(307, { location: `${standIns.url}/desk/events` }).end();
      }).listen(0, '127.0.0.1');
      await once(redirecting, 'listening');
      const { port } = redirecting.address() as AddressInfo;
      const before = standIns.desk.events.all.length;
      const there = outgoing({ channel: { kind: 'webhook', address: `http://127.0.0.1:${port}/` } });
      expect(await failureOf(send(there))).to.be.instanceOf(Error);
      redirecting.close();
      expect(standIns.desk.events.all).to.have.length(before);
    });
  });

  describe('a chat hook', () => {
    const toRoom = (template?: string) =>
      outgoing({
        channel: { kind: 'chat-hook', address: 'chat/…', settings: template === undefined ? {} : { template } },
        secret: { url: `${standIns.url}/chat/hooks/T5p0rt-bridge-7Qd2` }
      });

    it('posts one line with the link, and shows nothing of its address', async () => {
      const { request } = await chatHookSender(call).send(toRoom());
      expect(standIns.chat.posts.all[0]).to.include({
        room: '#bridge',
        text: 'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 08:00 https://bussola.example.test/incidents/7'
      });
      expect(request).not.to.contain('T5p0rt');
    });

    it('has the shape that its template gives, whatever the text is', async () => {
      const content = { ...incidentContent(7), subject: '"},"x":{"' };
      const message = {
        ...toRoom('{ "content": { "body": "{{severity}}: {{subject}}" }, "link": "{{link}}" }'),
        content
      };
      await chatHookSender(call).send(message);
      expect(standIns.chat.posts.all[0]?.body).to.deep.equal({
        content: { body: 'major: "},"x":{"' },
        link: 'https://bussola.example.test/incidents/7'
      });
    });
  });

  it('a template is refused that gives no JSON, uses what is not in a message, or could leave text as it is', () => {
    expect(chatTemplateProblem('{ "a": "{{severity}}", "b": ["{{#state}}{{short}}{{/state}}"] }')).to.equal(null);
    expect(chatTemplateProblem('{ "a": {{short}} }')).to.match(/^With a message in it, this is no JSON/);
    expect(chatTemplateProblem('{ "a": "{{shorty}}" }')).to.match(/^There is no “shorty” in a message/);
    for (const raw of ['{{{short}}}', '{{&short}}', '{{>short}}', '{{=<% %>=}}<%short%>'])
      expect(chatTemplateProblem(`{ "a": "${raw}" }`), raw).to.match(/^There is no /);
    expect(chatTemplateProblem('{ "a": "{{#short}}" }')).to.match(/^The template cannot be read/);
  });

  describe('a text message', () => {
    const sender = () => textMessageSender(call, { url: `${standIns.url}/phone/messages`, token: gatewayToken });
    const toPhone = (key: string, more = {}) =>
      outgoing({ key, channel: { kind: 'text-message', address: '+12025550143' }, ...more });

    it('has at most 160 characters, with the link whole', async () => {
      const content = { ...incidentContent(7), subject: 'a-very-long-name-'.repeat(20) };
      await sender().send(toPhone('long', { content }));
      const [arrived] = standIns.phone.messages.all;
      expect(arrived?.text).to.match(/… https:\/\/bussola\.example\.test\/incidents\/7$/);
      expect([...(arrived?.text ?? '')].length).to.equal(160);
    });

    it('is sent once by the gateway however often it is tried', async () => {
      await sender().send(toPhone('twice'));
      await sender().send(toPhone('twice'));
      expect(standIns.phone.messages.all.filter(({ id }) => id === 'twice')).to.have.length(1);
    });

    it('is not sent without a gateway, which is said', async () => {
      const failure = (await failureOf((async () => textMessageSender(call, null).send(toPhone('none')))())) as Error;
      expect(failure.message).to.contain('BUSSOLA_TEXT_GATEWAY');
    });
  });
});
