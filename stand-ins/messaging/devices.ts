import { createECDH, randomBytes, type ECDH } from 'node:crypto';
import type { FastifyInstance } from 'fastify';
import ece from 'http_ece';
import { importJWK, jwtVerify } from 'jose';
import type { StandInClock } from '../clock';
import { page, safe } from '../page';
import { Behaving, behaviourForm, behaviourRoute } from './behaviour';
import { Received } from './received';

/** A notification as the device reads it, after it was decrypted. */
export interface Notification {
  readonly at: number;
  readonly device: string;
  readonly title: string;
  readonly body: string;
  readonly link: string;
  readonly acknowledge: string;
  readonly urgency: string;
  /** Who signed it, as the push service is told. */
  readonly contact: string;
}

interface Device {
  readonly keys: ECDH;
  readonly auth: Buffer;
  /** Once it has gone, nothing is taken for it. */
  isGone: boolean;
}

export interface Devices {
  readonly notifications: Received<Notification>;
  readonly behaving: Behaving;
  /** Makes a device that takes notifications. @returns what its browser would give to whoever sends them */
  make(): { endpoint: string; keys: { p256dh: string; auth: string } };
  /** Lets a device go, as when its browser is removed. */
  lose(endpoint: string): void;
  /** Where it is served. */
  url: string;
  readonly all: Map<string, Device>;
}

export function makeDevices(): Devices {
  const all = new Map<string, Device>();
  return {
    ...{ all, url: '', notifications: new Received<Notification>(), behaving: new Behaving() },
    make() {
      const id = randomBytes(12).toString('base64url');
      const keys = createECDH('prime256v1');
      keys.generateKeys();
      const auth = randomBytes(16);
      all.set(id, { keys, auth, isGone: false });
      const encoded = { p256dh: keys.getPublicKey('base64url'), auth: auth.toString('base64url') };
      return { endpoint: `${this.url}/push/${id}`, keys: encoded };
    },
    lose(endpoint) {
      const device = all.get(endpoint.split('/').at(-1) ?? '');
      if (device) device.isGone = true;
    }
  };
}

/** A push service (RFC 8030) at `POST /push/{device}`, which checks who sends by their signature (RFC 8292), and the devices behind it, which decrypt what they get (RFC 8291). */
export function devicePages(
  app: FastifyInstance,
  { devices, clock }: { devices: Devices; clock: StandInClock },
  done: () => void
): void {
  const { all, notifications, behaving } = devices;
  void app.register((scope, _options, ready) => {
    scope.removeAllContentTypeParsers();
    scope.addContentTypeParser('*', { parseAs: 'buffer' }, (_request, body, next) => next(null, body));
    scope.post<{ Params: { id: string } }>('/push/:id', async (request, reply) => {
      if (!(await behaving.mayTake(reply))) return reply;
      const device = all.get(request.params.id);
      if (device === undefined || device.isGone) return reply.status(410).send({ error: 'the device has gone' });
      const { authorization = '', ttl, urgency, 'content-encoding': encoding } = request.headers;
      const contact = await contactOf(authorization, new URL(devices.url).origin);
      if (contact === null) return reply.status(403).send({ error: 'the signature is wrong' });
      if (ttl === undefined || encoding !== 'aes128gcm') return reply.status(400).send({ error: 'TTL or encoding' });
      const text = ece
        .decrypt(request.body as Buffer, {
          version: 'aes128gcm',
          privateKey: device.keys,
          authSecret: device.auth.toString('base64url')
        })
        .toString();
      const { title, body, link, acknowledge = '' } = JSON.parse(text) as Notification;
      notifications.add({
        ...{ at: clock(), device: request.params.id, title, body, link, acknowledge, contact },
        urgency: String(urgency)
      });
      if (behaving.cuts(reply)) return reply;
      return reply.status(201).send();
    });
    ready();
  });
  app.post('/push', () => devices.make());
  app.get('/push', (_request, reply) => {
    const rows = notifications.all.map(
      ({ at, title, body, link }) =>
        `<tr><td>${safe(new Date(at).toISOString().slice(11, 19))} UTC</td><td><b>${safe(title)}</b><br>${safe(body)}<br><a href="${safe(link)}">${safe(link)}</a></td></tr>`
    );
    const list = rows.length ? `<table><tbody>${rows.join('')}</tbody></table>` : '<p>No notification yet.</p>';
    return reply.type('text/html').send(page('Devices of Corallo Lines', behaviourForm('/push', behaving) + list));
  });
  behaviourRoute(app, '/push', behaving);
  done();
}

/** Whom the sender says to turn to; null when the signature is wrong, is for another service or has expired. */
async function contactOf(authorization: string, audience: string): Promise<string | null> {
  const [, token, key] = /^vapid t=([\w.-]+), ?k=([\w-]+)$/.exec(authorization) ?? [];
  if (token === undefined || key === undefined) return null;
  const point = Buffer.from(key, 'base64url');
  const jwk = {
    ...{ kty: 'EC', crv: 'P-256' },
    x: point.subarray(1, 33).toString('base64url'),
    y: point.subarray(33).toString('base64url')
  };
  return jwtVerify(token, await importJWK(jwk, 'ES256'), { audience }).then(
    ({ payload }) => payload.sub ?? null,
    () => null
  );
}
