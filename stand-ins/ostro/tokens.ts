import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { clients, type Client } from './world';

/** How long a token is good for. */
export const tokenSeconds = 600;

const key = randomBytes(32);

/** A bearer token for a client: who and until when, with a seal on it. */
export function issueToken(client: Client, now: number): string {
  const body = Buffer.from(JSON.stringify({ client: client.id, until: now + tokenSeconds * 1000 })).toString(
    'base64url'
  );
  return `${body}.${seal(body)}`;
}

/** The client behind a token; null when it is not ours or has run out. */
export function clientOf(header: string | undefined, now: number): Client | null {
  const [body = '', given = ''] = (/^Bearer (.+)$/.exec(header ?? '')?.[1] ?? '').split('.');
  const real = seal(body);
  if (given.length !== real.length || !timingSafeEqual(Buffer.from(given), Buffer.from(real))) return null;
  const { client, until } = JSON.parse(Buffer.from(body, 'base64url').toString('utf8')) as {
    client: string;
    until: number;
  };
  return until > now ? (clients.find(({ id }) => id === client) ?? null) : null;
}

const seal = (body: string): string => createHmac('sha256', key).update(body).digest('base64url');
