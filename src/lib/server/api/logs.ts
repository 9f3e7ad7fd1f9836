import { z } from 'zod';
import { barStep, linePatternSchema, type ShownProgress } from '$lib/core/logs';
import { after, before, duration, hour, instantFromText, range, type Instant, type Range } from '$lib/core/time';
import { admitted } from '../intake/receive/admit';
import { countLines, searchLines } from '../logs/ask';
import { keepReceived, readReceived } from '../logs/receive-lines';
import { tryPattern } from '../logs/try-pattern';
import { lineAnswer, lineOf, valueAnswer, valuesOf } from './line-answer';
import { operationsOf } from './operation';
import { linePage } from './line-page';
import { readList } from './paging';

const operation = operationsOf('Logs');

/** Lines that one answer has at most. */
const mostLines = 1000;

const spanQuery = {
  from: z.iso.datetime({ offset: true }).optional(),
  to: z.iso.datetime({ offset: true }).optional()
};
interface Ends {
  readonly from?: string | undefined;
  readonly to?: string | undefined;
}
const areBoth = ({ from, to }: Ends): boolean => (from === undefined) === (to === undefined);
const bothEnds = { error: 'Give both ends of a range, or none.', path: ['to'] };

/** The range of a query; without one, the last hour up to this very moment. */
const spanOf = ({ from, to }: Ends, now: Instant): Range =>
  from === undefined || to === undefined
    ? range(before(now, hour), after(now, duration(1)))
    : range(instantFromText(from), instantFromText(to));

/** How long counting may take, ms. */
const tallyMs = 10_000;

export const logOperations = [
  operation('POST', '/receive/lines', {
    isAct: false,
    right: 'anybody',
    scope: 'logs',
    isRaw: true,
    summary: 'Takes lines as newline-delimited JSON.',
    answer: z.object({
      accepted: z.int(),
      rejected: z.int(),
      reasons: z.record(z.string(), z.int()),
      faults: z.array(z.string())
    }),
    handle: async ({ server, request }) => {
      const { key: sender, body, isGzip } = await admitted(server, request, 'logs');
      const received = await readReceived(server, sender, { format: 'ndjson', body, isGzip });
      const taken = await keepReceived(server, sender, received);
      return Response.json(taken, { status: taken.accepted === 0 && taken.rejected > 0 ? 422 : 200 });
    }
  }),
  operation('GET', '/lines', {
    list: readList('lines', {
      ...{ usual: 100, most: mostLines },
      place: ({ at, key }: { at: number; key: string }) => [at, key]
    }),
    right: 'viewer',
    scope: 'read-lines',
    summary:
      'Searches lines, newest first, and says how many there are; with a cursor, how many from there on. Without a range, those of the last hour.',
    query: z
      .strictObject({
        ...spanQuery,
        search: z.string().default('')
      })
      .refine(areBoth, bothEnds),
    answer: z.object({
      lines: z.array(lineAnswer),
      count: z.int(),
      looked: z.int().describe('Lines that were looked at, or passed over because they surely do not match.'),
      took: z.number().describe('In milliseconds.')
    }),
    handle: async ({ server, request, query: { search, from, to }, page, lineAccounts, inTurn }) => {
      const { within, most, shownOf } = linePage(spanOf({ from, to }, server.clock.now()), page);
      return inTurn(async () => {
        let last: ShownProgress | null = null;
        const accounts = await lineAccounts();
        const asked = { text: search, range: within, most, step: barStep(within), accounts };
        for await (const progress of searchLines(server, asked, () => !request.signal.aborted)) last = progress;
        const { lines = [], count = 0, looked = 0, took = 0 } = last ?? {};
        return { lines: shownOf(lines).map(lineOf), count, looked, took };
      });
    }
  }),
  operation('GET', '/lines/counts', {
    right: 'viewer',
    scope: 'read-lines',
    summary: 'Counts lines that a search finds by the values of a field. Without a range, those of the last hour.',
    query: z
      .strictObject({
        ...spanQuery,
        search: z.string().default(''),
        by: z.string().min(1).max(200),
        most: z.coerce.number().int().min(1).max(mostLines).default(20)
      })
      .refine(areBoth, bothEnds),
    answer: z.object({
      values: z.array(z.object({ value: z.string(), count: z.int() })),
      count: z.int().describe('Lines that the search finds.'),
      without: z.int().describe('Those of them that have no such field.'),
      others: z.object({ values: z.int(), lines: z.int() }).describe('What has other values than those.'),
      looked: z.int(),
      took: z.number().describe('In milliseconds.'),
      isDone: z
        .boolean()
        .describe(`False where it took more than ${tallyMs / 1000} s: then it is what was counted so far.`)
    }),
    handle: async ({ server, query: { search, from, to, by, most }, lineAccounts, inTurn }) => {
      const within = spanOf({ from, to }, server.clock.now());
      const accounts = await lineAccounts();
      return inTurn(() => countLines(server, { text: search, range: within, by, most, accounts }, tallyMs));
    }
  }),
  operation('GET', '/lines/fields', {
    right: 'viewer',
    scope: 'read-lines',
    summary:
      'Names the fields that lines of a range have, those of the most lines first. Without a range, of the last hour.',
    query: z.strictObject(spanQuery).refine(areBoth, bothEnds),
    answer: z.object({ fields: z.array(z.object({ name: z.string(), lines: z.int() })) }),
    handle: async ({ server, query, lineAccounts, inTurn }) => {
      const accounts = await lineAccounts();
      const within = spanOf(query, server.clock.now());
      return { fields: await inTurn(() => server.logs.logs.fieldNames(within, accounts)) };
    }
  }),
  operation('POST', '/lines/pattern', {
    right: 'viewer',
    scope: 'read-lines',
    summary: 'Tries a pattern on the newest lines that a search finds. Without a range, those of the last hour.',
    body: z
      .strictObject({
        ...spanQuery,
        search: z.string().default(''),
        pattern: linePatternSchema.nullable().default(null)
      })
      .refine(areBoth, bothEnds),
    answer: z.object({
      tried: z.int().describe('Lines that were tried, the newest.'),
      matches: z.int().describe('How many of them match.'),
      matched: z.array(z.object({ key: z.string(), text: z.string(), fields: z.array(valueAnswer) })),
      unmatched: z.array(z.object({ key: z.string(), text: z.string() }))
    }),
    handle: async ({ server, body: { search, from, to, pattern }, lineAccounts, inTurn }) => {
      const within = spanOf({ from, to }, server.clock.now());
      const accounts = await lineAccounts();
      const tried = await inTurn(() => tryPattern(server, { search, pattern, range: within, accounts }));
      return {
        ...tried,
        matched: tried.matched.map((line) => ({ ...line, fields: valuesOf(line.fields) })),
        unmatched: [...tried.unmatched]
      };
    }
  })
];
