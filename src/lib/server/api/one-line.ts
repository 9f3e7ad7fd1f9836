import { z } from 'zod';
import { severities } from '$lib/core/alarm';
import type { Line, ShownLine, ShownProgress } from '$lib/core/logs';
import { Refusal } from '$lib/core/problem/problem';
import { after, before, duration, range, type Range } from '$lib/core/time';
import { nearLine } from '../incidents/near-line';
import { LineNames, searchLines } from '../logs/ask';
import { nodeSearch } from '../logs/node-search';
import type { Bussola } from '../process/start';
import { lineAnswer, lineOf, valueAnswer, valuesOf } from './line-answer';
import { instant, operationsOf } from './operation';

const operation = operationsOf('Logs');

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

/** Lines that are looked through for those that come next. */
const mostNear = 1000;
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
    later = await within(range(line.at, after(line.at, span)), mostNear);
    if (later.length >= each) break;
  }
  return [...earlier, ...later.slice(0, each)];
}

export const oneLineOperations = [
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
