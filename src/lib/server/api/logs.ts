import { z } from 'zod';
import { severities } from '$lib/core/alarm';
import {
  barStep,
  linePatternSchema,
  mostListed,
  valueText,
  type Line,
  type LogFields,
  type ShownLine,
  type ShownProgress
} from '$lib/core/logs';
import { Refusal } from '$lib/core/problem/problem';
import { after, before, duration, hour, instantFromText, range, type Instant, type Range } from '$lib/core/time';
import { admitted } from '../intake/receive/admit';
import { countLines, LineNames, searchLines } from '../logs/ask';
import { nearLine } from '../incidents/near-line';
import { nodeSearch } from '../logs/node-search';
import { keepReceived } from '../logs/receive-lines';
import { tryPattern } from '../logs/try-pattern';
import type { Bussola } from '../process/start';
import { instant, operationsOf } from './operation';

const operation = operationsOf('Logs');

/** Lines that one answer has at most. */
const mostLines = 1000;

const lineAnswer = z.object({
  key: z.string().describe('By which the line is found again.'),
  at: instant,
  nanos: z.int().describe('Nanoseconds beyond that millisecond.'),
  severity: z.int().describe('OpenTelemetry’s severity number, 1 to 24; 0 where it says none.'),
  text: z.string().describe(`At most ${mostListed} characters of it; all of it when it is read by its key.`),
  isCut: z.boolean().describe('Whether it says more.'),
  account: z.string(),
  service: z.string(),
  stream: z.string(),
  resource: z.string().describe('Of the inventory; empty where none was found.'),
  shape: z.int().describe('What it has in common with other lines of its stream.')
});

const valueAnswer = z.object({
  name: z.string(),
  kind: z.enum(['text', 'number', 'whole number', 'yes or no', 'bytes', 'list', 'map', 'nothing']),
  value: z.string()
});

function valuesOf(fields: LogFields): z.output<typeof valueAnswer>[] {
  return Object.entries(fields).map(([name, value]) => ({ name, kind: kindOf(value), value: valueText(value) }));
}

function kindOf(value: LogFields[string]): z.output<typeof valueAnswer>['kind'] {
  if (value === null) return 'nothing';
  if (value instanceof Uint8Array) return 'bytes';
  if (Array.isArray(value)) return 'list';
  const kinds = { string: 'text', number: 'number', bigint: 'whole number', boolean: 'yes or no' } as const;
  const kind = typeof value;
  return kind in kinds ? kinds[kind as keyof typeof kinds] : 'map';
}

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

const key = z.string().max(80);
const noSuchLine = () =>
  new Refusal('not-found', 'There is no such line.', 'It may have been removed after its time. Search for it again.');

async function lineOr404({ server: { logs }, lineAccounts }: LinesCall, wanted: string) {
  const found = await logs.logs.line(wanted, await lineAccounts());
  if (found === null) throw noSuchLine();
  return found;
}

/** Who asks for lines, and where. */
interface LinesCall {
  readonly server: Bussola;
  readonly lineAccounts: () => Promise<readonly number[] | null>;
}

/** How far from a line it is looked on its node: farther only while there is too little. */
const nodeSpans = [1000, 10_000, 120_000].map(duration);

/** Lines of everything on the node of a line, before and after it. */
async function onNode(
  { server, request: { signal }, lineAccounts }: LinesCall & { readonly request: Request },
  line: Line,
  each: number
): Promise<ShownLine[]> {
  const text = nodeSearch(line);
  if (text === null)
    throw new Refusal(
      'not-found',
      'The line does not say on which node it was written.',
      'Look at the lines around it in its own stream.'
    );
  const within = async (span: Range, most: number): Promise<readonly ShownLine[]> => {
    let last: ShownProgress | null = null;
    const asked = { text, range: span, most, step: span.to - span.from, accounts: await lineAccounts() };
    for await (const progress of searchLines(server, asked, () => !signal.aborted)) last = progress;
    return (last?.lines ?? []).toReversed();
  };
  const longest = nodeSpans.at(-1) ?? duration(0);
  const earlier = await within(range(before(line.at, longest), line.at), each);
  // A search gives the newest of many: what comes next after the line is looked for nearby first.
  let later: readonly ShownLine[] = [];
  for (const span of nodeSpans) {
    later = await within(range(line.at, after(line.at, span)), mostLines);
    if (later.length >= each) break;
  }
  return [...earlier, ...later.slice(0, each)];
}

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
      const received = await server.parsers.lines({ format: 'ndjson', body, isGzip, now: server.clock.now() });
      const taken = await keepReceived(server, sender, received);
      return Response.json(taken, { status: taken.accepted === 0 && taken.rejected > 0 ? 422 : 200 });
    }
  }),
  operation('GET', '/lines', {
    right: 'viewer',
    scope: 'read-lines',
    summary: `Searches lines, newest first: at most ${mostLines} of them, and how many there are. Without a range, those of the last hour.`,
    query: z
      .strictObject({
        ...spanQuery,
        search: z.string().default(''),
        most: z.coerce.number().int().min(1).max(mostLines).default(100)
      })
      .refine(areBoth, bothEnds),
    answer: z.object({
      lines: z.array(lineAnswer),
      count: z.int(),
      looked: z.int().describe('Lines that were looked at, or passed over because they surely do not match.'),
      took: z.number().describe('In milliseconds.')
    }),
    handle: async ({ server, request, query: { search, from, to, most }, lineAccounts, inTurn }) => {
      const within = spanOf({ from, to }, server.clock.now());
      return inTurn(async () => {
        let last: ShownProgress | null = null;
        const accounts = await lineAccounts();
        const asked = { text: search, range: within, most, step: barStep(within), accounts };
        for await (const progress of searchLines(server, asked, () => !request.signal.aborted)) last = progress;
        const { lines = [], count = 0, looked = 0, took = 0 } = last ?? {};
        return { lines: lines.map(lineOf), count, looked, took };
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
  }),
  operation('GET', '/lines/{key}', {
    right: 'viewer',
    scope: 'read-lines',
    summary: 'Reads a line whole, with all its fields.',
    params: z.strictObject({ key }),
    answer: lineAnswer.extend({
      severityText: z.string(),
      observedAt: instant.nullable(),
      trace: z.string(),
      span: z.string(),
      event: z.string(),
      fields: z.array(valueAnswer),
      origin: z.array(valueAnswer).describe('What wrote it, as it says itself.'),
      dropped: z.int().describe('Fields that were left out before or when it arrived.'),
      resourceId: z.int().nullable()
    }),
    handle: async (call) => {
      const { server, params } = call;
      const { line, stream } = await lineOr404(call, params.key);
      const names = await LineNames.of(server);
      const { scope, resource } = line.origin;
      return {
        ...lineOf(names.shown({ ...line, key: params.key, streamId: stream.id, marks: [], isCut: false })),
        ...{ severityText: line.severityText, observedAt: line.observed?.at ?? null, resourceId: line.resourceId },
        ...{ trace: line.trace, span: line.span, event: line.event, dropped: line.fieldsDropped },
        fields: valuesOf(line.fields),
        origin: [
          ...valuesOf(resource),
          ...(scope.name === '' ? [] : [{ name: 'scope', kind: 'text' as const, value: scope.name }]),
          ...valuesOf(scope.fields)
        ]
      };
    }
  }),
  operation('GET', '/lines/{key}/around', {
    right: 'viewer',
    scope: 'read-lines',
    summary:
      'Lists the lines before and after one, the earliest first: those of the same stream, or of everything on its node.',
    params: z.strictObject({ key }),
    query: z.strictObject({
      each: z.coerce.number().int().min(1).max(200).default(10),
      of: z.enum(['stream', 'node']).default('stream')
    }),
    answer: z.object({ lines: z.array(lineAnswer) }),
    handle: async (call) => {
      const { server, params, query } = call;
      const { each, of } = query;
      const { line, stream } = await lineOr404(call, params.key);
      if (of === 'node') return { lines: (await onNode(call, line, each)).map(lineOf) };
      const names = await LineNames.of(server);
      const lines = await server.logs.logs.around(stream.id, line.at, each, await call.lineAccounts());
      return { lines: lines.map((one) => lineOf(names.shown(one))) };
    }
  }),
  operation('GET', '/lines/{key}/near', {
    right: 'viewer',
    scope: 'read-lines',
    summary: 'Lists incidents, marks and events within a quarter of an hour of a line, those of its resource first.',
    params: z.strictObject({ key }),
    answer: z.object({
      near: z.array(
        z.object({
          at: instant,
          kind: z.enum(['incident', 'mark', 'event']),
          text: z.string(),
          severity: z.enum(severities).nullable(),
          incidentId: z.int().nullable()
        })
      )
    }),
    handle: async (call) => {
      const { line, stream } = await lineOr404(call, call.params.key);
      return { near: (await nearLine(call.server.db, line, stream)).map((one) => ({ ...one })) };
    }
  })
];

const lineOf = (line: ShownProgress['lines'][number]): z.output<typeof lineAnswer> => {
  const { at, nanos, severity, text, isCut, account, service, stream, resource, shape } = line;
  return { key: line.key, at, nanos, severity, text, isCut, account, service, stream, resource, shape };
};
