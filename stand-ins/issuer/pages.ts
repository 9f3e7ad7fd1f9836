import type { FastifyInstance } from 'fastify';
import { behaviourForm, behaviourRoute, type Behaving } from '../messaging/behaviour';
import { page } from '../page';

/** The page at which people make the issuer refuse, be slow or fall silent. */
export function issuerPages(app: FastifyInstance, { behaving }: { behaving: Behaving }, done: () => void): void {
  app.get('/issuer', (_request, reply) =>
    reply.type('text/html').send(page('Sign-on of Corallo Lines', behaviourForm('/issuer', behaving)))
  );
  behaviourRoute(app, '/issuer', behaving);
  done();
}
