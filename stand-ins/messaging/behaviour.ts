import { setTimeout } from 'node:timers/promises';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { safe } from '../page';

/** How a receiver of messages behaves. `cut` takes the message and ends the connection before it says so. */
export const behaviours = ['well', 'refuse', 'slow', 'down', 'cut'] as const;
export type Behaviour = (typeof behaviours)[number];

const words: Readonly<Record<Behaviour, string>> = {
  well: 'takes messages',
  refuse: 'refuses them',
  slow: 'takes them after 5 seconds',
  down: 'ends every connection at once',
  cut: 'takes them, and ends the connection before it says so'
};

const slowMs = 5000;

/** The behaviour of one receiver, which people and tests choose. */
export class Behaving {
  current: Behaviour = 'well';

  /** Waits where it is slow. */
  async pause(): Promise<void> {
    if (this.current === 'slow') await setTimeout(slowMs);
  }

  /** Answers a request as it behaves, before it is looked at. @returns whether it may be taken */
  async mayTake(reply: FastifyReply): Promise<boolean> {
    await this.pause();
    if (this.current === 'refuse') await reply.status(503).send({ error: 'refused on purpose' });
    if (this.current === 'down') reply.raw.destroy();
    return this.current !== 'refuse' && this.current !== 'down';
  }

  /** Ends the connection of what was taken, where it does so. @returns whether it did */
  cuts(reply: FastifyReply): boolean {
    if (this.current !== 'cut') return false;
    reply.raw.destroy();
    return true;
  }
}

/** The form with which people choose how a receiver behaves. */
export const behaviourForm = (path: string, behaving: Behaving): string =>
  `<form method="post" action="${path}/behaviour"><label>It <select name="behaviour">${behaviours
    .map((one) => `<option value="${one}"${one === behaving.current ? ' selected' : ''}>${safe(words[one])}</option>`)
    .join('')}</select></label><button>Change</button></form>`;

/** Takes that form, or `{ "behaviour": "down" }` as JSON from tests. */
export function behaviourRoute(app: FastifyInstance, path: string, behaving: Behaving): void {
  app.post(`${path}/behaviour`, (request: FastifyRequest, reply) => {
    const { behaviour } = (request.body ?? {}) as { behaviour?: string };
    const chosen = behaviours.find((one) => one === behaviour);
    if (chosen === undefined) return reply.status(400).send({ error: `behaviour: one of ${behaviours.join(', ')}` });
    behaving.current = chosen;
    return reply.redirect(path);
  });
}
