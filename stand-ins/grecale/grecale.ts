// Grecale, as its description (api.md) has it: brokers and hosts on quays, for a connector that is written from that description alone.
import { createHash, createHmac, timingSafeEqual } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import type { StandInClock } from '../clock';
import { loadOf } from '../world/load';
import { rounded, seriesKey, wander } from '../world/noise';

/** What signs in. */
export const grecaleKey = { name: 'quay-reader', secret: 'demo-only-grecale-5be1a9' };

interface Part {
  readonly label: string;
  readonly class: 'broker' | 'host';
  readonly quay: string;
  readonly marks: readonly string[];
}

/** What there is, by number. */
export const fleet: Readonly<Record<string, Part>> = {
  'b-1': { label: 'berth-notices', class: 'broker', quay: 'perla', marks: ['team=fleet', 'stage=prod'] },
  'b-2': { label: 'pallet-moves', class: 'broker', quay: 'sella', marks: ['team=data', 'stage=prod'] },
  'b-3': { label: 'crew-calls', class: 'broker', quay: 'dorsale', marks: ['team=fleet', 'stage=prod'] },
  'h-1': { label: 'quay-perla-host', class: 'host', quay: 'perla', marks: ['team=network', 'stage=prod'] },
  'h-2': { label: 'quay-vela-host', class: 'host', quay: 'vela', marks: ['team=network', 'stage=prod'] }
};
const perPage = 3;

export const dictionary = [
  { code: 'backlog', on: 'broker', says: 'Messages that wait', in: 'messages', grows: false, every: '1m', late: '2m' },
  {
    code: 'taken',
    on: 'broker',
    says: 'Messages that were taken',
    in: 'messages',
    grows: true,
    every: '1m',
    late: '2m'
  },
  { code: 'busy', on: 'host', says: 'Processor in use', in: 'percent', grows: false, every: '1m', late: '2m' },
  { code: 'memory', on: 'host', says: 'Memory in use', in: 'bytes', grows: false, every: '1m', late: '2m' }
] as const;
type Code = (typeof dictionary)[number]['code'];

const minute = 60_000;
const lateMs = 2 * minute;

/** The value of a measure at a whole minute: a function of seed, thing and time. */
export function readingOf(seed: number, code: Code, id: string, at: number): number {
  const wandering = wander(seriesKey(seed, `grecale ${code} ${id}`), at);
  if (code === 'backlog') return Math.round(loadOf('desk', at) * 80 * wandering);
  if (code === 'taken') return Math.floor(at / minute) * 37 + Math.round(wandering * 20);
  if (code === 'busy') return rounded(10 + 70 * loadOf('web', at) * wandering, 2);
  return Math.round(2e9 + 1e9 * wandering);
}

/** How Grecale behaves: tests change it. */
export interface GrecaleState {
  /** Requests that are still told to slow down. */
  slowDown: number;
}

/** Serves Grecale below `/grecale`. */
export function grecale(
  app: FastifyInstance,
  { seed, clock, state }: { seed: number; clock: StandInClock; state: GrecaleState },
  done: () => void
): void {
  const answered =
    (answer: (request: FastifyRequest, reply: FastifyReply) => unknown) =>
    (request: FastifyRequest, reply: FastifyReply) => {
      const fault = sealFault(request, clock());
      if (fault !== null) return reply.status(401).type('application/problem+json').send({ detail: fault });
      if (state.slowDown > 0) {
        state.slowDown--;
        return reply.status(503).header('grecale-wait', '20').send({});
      }
      return reply.send(answer(request, reply));
    };
  const queryOf = (request: FastifyRequest) => request.query as Readonly<Record<string, string | undefined>>;

  app.get('/grecale/', (_request, reply) =>
    reply.type('text/markdown; charset=utf-8').send(readFileSync(new URL('./api.md', import.meta.url), 'utf8'))
  );
  app.get(
    '/grecale/fleet',
    answered((request, reply) => {
      const from = Number(queryOf(request)['from'] ?? 0);
      const all = Object.entries(fleet);
      if (from + perPage < all.length)
        void reply.header('link', `<http://${request.headers.host}/grecale/fleet?from=${from + perPage}>; rel="next"`);
      return { fleet: Object.fromEntries(all.slice(from, from + perPage)) };
    })
  );
  app.get(
    '/grecale/dictionary',
    answered(() => dictionary)
  );
  app.get(
    '/grecale/readings/:code',
    answered((request) => {
      const { code } = request.params as { code: Code };
      const { of = '', begin = '', minutes = '0' } = queryOf(request);
      const first = Math.ceil(Date.parse(begin) / minute) * minute;
      const rows = of.split(',').filter((id) => id in fleet);
      const valuesOf = (id: string) =>
        Array.from({ length: Math.min(360, Number(minutes)) }, (_, i) => {
          const at = first + i * minute;
          return at + lateMs > clock() ? '~' : String(readingOf(seed, code, id, at));
        });
      return {
        begin: first / 1000,
        every: 60,
        rows: Object.fromEntries(rows.map((id) => [id, valuesOf(id).join(' ')]))
      };
    })
  );
  app.get(
    '/grecale/bulletin',
    answered((request) => {
      const { sheet = '1', behind = '0' } = queryOf(request);
      const notes = notesUntil(clock()).filter(({ no }) => no > Number(behind));
      const from = (Number(sheet) - 1) * 20;
      return { notes: notes.slice(from, from + 20), last: from + 20 >= notes.length };
    })
  );
  app.get(
    '/grecale/journals',
    answered(() => ['b-1', 'b-2'])
  );
  app.get(
    '/grecale/journals/:id',
    answered((request) => {
      const { id } = request.params as { id: string };
      const { begin = '', end = '' } = queryOf(request);
      const whole = Math.min(Date.parse(end), clock() - lateMs);
      const all = linesOf(id, Date.parse(begin), whole);
      const some = all.slice(0, 500);
      const last = all.length > some.length ? Date.parse(some.at(-1)?.when ?? '') + 1 : whole;
      return { lines: some, whole: new Date(last).toISOString(), more: all.length > some.length };
    })
  );
  app.get(
    '/grecale/ledger/:day',
    answered((request) => {
      const { day } = request.params as { day: string };
      const written = Date.parse(day) + 86_400_000 + 3_600_000 < clock();
      const posts = Object.keys(fleet).map((id, i) => ({
        ...{ of: id, what: id.startsWith('b') ? 'messages' : 'hours' },
        ...{ count: id.startsWith('b') ? 50_000 + i : 24, cents: 120.5 + i * 10.25 }
      }));
      return { currency: 'EUR', written, posts: written ? posts : [] };
    })
  );
  done();
}

function sealFault(request: FastifyRequest, now: number): string | null {
  const { 'x-grecale-quay': quay, 'x-grecale-moment': moment, 'x-grecale-seal': seal } = request.headers;
  if (quay !== grecaleKey.name) return 'No such key.';
  if (!(Math.abs(Number(moment) - now) < 300_000)) return 'The moment is more than five minutes off.';
  const [path = '', query = ''] = request.url.split('?');
  const digest = createHash('sha512').update('').digest('hex');
  const over = [request.method, `${path}?${query}`, String(moment), digest].join('\n');
  const right = createHmac('sha512', grecaleKey.secret).update(over).digest();
  const given = Buffer.from(String(seal), 'base64');
  return given.length === right.length && timingSafeEqual(given, right) ? null : 'The seal is wrong.';
}

/** One note every seven hours, for a month back and on: numbered by time. */
function notesUntil(now: number): { no: number; when: number; of: string; sort: string; said: string }[] {
  const every = 7 * 3600;
  const newest = Math.floor(now / 1000 / every);
  const ids = Object.keys(fleet);
  return Array.from({ length: 45 }, (_, i) => newest - 44 + i).map((no) => {
    const of = ids[no % ids.length] as string;
    return { no, when: no * every, of, sort: 'restart', said: `${fleet[of]?.label ?? of} restarted` };
  });
}

/** A line every 12 s. */
function linesOf(id: string, from: number, to: number): { when: string; weight: string; words: string }[] {
  const first = Math.ceil(from / 12_000);
  return Array.from({ length: Math.max(0, Math.ceil(to / 12_000) - first) }, (_, i) => first + i).map((n) => ({
    when: new Date(n * 12_000).toISOString(),
    weight: n % 25 === 0 ? 'warn' : 'info',
    words: n % 25 === 0 ? `consumer lags on ${id}` : `message ${n % 1000} taken on ${id}`
  }));
}
