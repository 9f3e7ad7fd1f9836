import { createServer, type Server } from 'node:https';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { setTimeout } from 'node:timers/promises';
import type { FastifyInstance } from 'fastify';
import { generate } from 'selfsigned';
import { page, safe } from '../page';
import { frontBehaviours, isFrontBehaviour, slowMs } from './behaviour';
import { certificateDays, frontParts, secureName, sites, type Front, type FrontPart, type SiteName } from './front';

const day = 86_400_000;
const isSite = (name: string): name is SiteName => Object.hasOwn(sites, name);

/** The sites below `/front/sites/`, and the page on which people choose how they behave. */
export function frontPages(app: FastifyInstance, { front }: { front: Front }, done: () => void): void {
  app.get('/front/sites/:name', async (request, reply) => {
    reply.hijack();
    await answer(front, (request.params as { name: string }).name, reply.raw);
  });
  app.get('/front', (_request, reply) =>
    reply.type('text/html').send(
      page(
        'Corallo Lines from outside',
        `<p>${safe(`Sites: /front/sites/ followed by ${Object.keys(sites).join(', ')}. Over HTTPS: ${front.ports.secure === null ? 'nowhere' : `port ${front.ports.secure}`}. Name server: ${front.ports.names === null ? 'none' : `UDP port ${front.ports.names}`}.`)}</p>
        <table><tbody>${frontParts.map((part) => row(front, part)).join('')}</tbody></table>`
      )
    )
  );
  app.get('/front/ports', () => front.ports);
  app.post('/front/:part/behaviour', (request, reply) => {
    const { part } = request.params as { part: string };
    const { behaviour } = (request.body ?? {}) as { behaviour?: string };
    const known = frontParts.find((one) => one === part);
    if (known === undefined || !isFrontBehaviour(behaviour))
      return reply.status(400).send({ error: `behaviour: one of ${Object.keys(frontBehaviours).join(', ')}` });
    front.behaving[known] = behaviour;
    return reply.redirect('/front');
  });
  done();
}

const row = ({ behaving }: Front, part: FrontPart): string =>
  `<tr><td>${safe(part)}</td><td><form method="post" action="/front/${part}/behaviour"><select name="behaviour">${Object.entries(
    frontBehaviours
  )
    .map(([one, words]) => `<option value="${one}"${one === behaving[part] ? ' selected' : ''}>${safe(words)}</option>`)
    .join('')}</select><button>Change</button></form></td></tr>`;

async function answer({ behaving }: Front, name: string, response: ServerResponse): Promise<void> {
  if (!isSite(name)) return void response.writeHead(404).end('There is no such site.\n');
  const behaviour = behaving[name];
  if (behaviour === 'silent') return;
  if (behaviour === 'closed') return void response.destroy();
  if (behaviour === 'slow') await setTimeout(slowMs);
  if (behaviour === 'failing') return void response.writeHead(500).end('Something went wrong.\n');
  const text = behaviour === 'wrong' ? 'We are being maintained.' : sites[name];
  response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(page(name, `<p>${safe(text)}</p>`));
}

/**
 * Serves the sites over HTTPS, each below `/` by its name, with a certificate of its own that is valid for {@link certificateDays} days.
 *
 * @param port 0 takes any free one
 * @param now from which the certificate is valid, ms
 */
export async function listenSecurely(port: number, front: Front, now: number): Promise<Server> {
  const { cert, private: key } = await generate([{ name: 'commonName', value: secureName }], {
    keyType: 'ec',
    notBeforeDate: new Date(now - day),
    notAfterDate: new Date(now + certificateDays * day),
    extensions: [
      {
        name: 'subjectAltName',
        altNames: [
          { type: 2, value: secureName },
          { type: 7, ip: '127.0.0.1' }
        ]
      }
    ]
  });
  const server = createServer({ cert, key }, (request: IncomingMessage, response) => {
    void answer(front, (request.url ?? '').replace(/^\/|\?.*$/g, ''), response);
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => resolve());
  });
  const address = server.address();
  front.ports.secure = typeof address === 'object' ? (address?.port ?? null) : null;
  return server;
}
