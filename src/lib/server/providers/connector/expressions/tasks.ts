import { parseTemplate, type PrimitiveValue } from 'url-template';
import type { BillEntry } from '$lib/core/cost';
import {
  connectorFileForm,
  expressionsOf,
  longestConnector,
  type Connector,
  type ConnectorRequest
} from '$lib/core/connector';
import { lineIn, readFileText, type FileProblem } from '$lib/core/forms/file';
import { jsonOrNull } from '$lib/core/forms/json';
import { Refusal } from '$lib/core/problem/problem';
import type {
  FetchedPage,
  FetchedSeries,
  FoundEvent,
  FoundMetric,
  FoundResource,
  UnreadableEvent
} from '../../port/provider';
import { compile, evaluate, listOf, type Bindings, type Prelude } from './evaluate';
import { eventOf, foundSchemas, seriesOf, whyUnfit, type FoundFeed, type PointTime } from './found';

/** Things in one answer at most. */
const mostItems = 100_000;

/** A connector that was read, or what is wrong with its text. */
export type ReadConnector =
  | { readonly kind: 'read'; readonly connector: Connector }
  | { readonly kind: 'unreadable'; readonly problems: readonly FileProblem[] };

/** Reads the text of a connector, and each of its expressions. */
export function readConnector(text: string): ReadConnector {
  if (text.length > longestConnector)
    return {
      kind: 'unreadable',
      problems: [{ path: '', line: null, message: `A connector has ${longestConnector / 1000} kB at most.` }]
    };
  const read = readFileText(text, connectorFileForm);
  if (read.kind === 'unreadable') return read;
  const problems = expressionsOf(read.content).flatMap(({ path, expression }): FileProblem[] => {
    try {
      compile({ values: {}, functions: path[0] === 'functions' ? {} : read.content.functions }, expression);
      return [];
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      return [{ path: path.join('.'), line: lineIn(text, path), message: error.message }];
    }
  });
  const doubled = ownNames.filter((name) => name in read.content.values || name in read.content.functions);
  for (const name of doubled)
    problems.push({ path: name, line: null, message: `$${name} has a meaning already. Choose another name.` });
  return problems.length > 0 ? { kind: 'unreadable', problems } : { kind: 'read', connector: read.content };
}

/** Names that have a meaning in expressions already. */
const ownNames = [
  ...['now', 'key', 'answer', 'of', 'page', 'from', 'to', 'day', 'cursor', 'feed', 'order'],
  ...['series', 'resource', 'resources', 'metric', 'metrics']
];

/** A request as it is sent, before it is signed. */
export interface PreparedRequest {
  readonly method: 'GET' | 'POST';
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
}

/** Fills a request in. @throws Refusal where an expression fails, or gives what cannot stand there */
export async function prepare(
  prelude: Prelude,
  request: ConnectorRequest,
  bindings: Bindings
): Promise<PreparedRequest> {
  const parts: Record<string, PrimitiveValue | PrimitiveValue[]> = {};
  for (const [name, expression] of Object.entries(request.with)) {
    const value = await evaluate(prelude, expression, bindings, bindings);
    if (value === undefined || value === null) continue;
    if (Array.isArray(value)) parts[name] = value.map((one) => plain(one, name));
    else parts[name] = plain(value, name);
  }
  const headers: Record<string, string> = {};
  for (const [name, expression] of Object.entries(request.headers)) {
    const value = await evaluate(prelude, expression, bindings, bindings);
    if (value === undefined || value === null) continue;
    const text = String(plain(value, name));
    if (/[^\t\x20-\x7e]/.test(text))
      throw new Refusal('malformed', `The header ${name} would have characters that no header may have.`, remedy);
    headers[name.toLowerCase()] = text;
  }
  const body =
    request.body === undefined
      ? null
      : JSON.stringify((await evaluate(prelude, request.body, bindings, bindings)) ?? null);
  return { method: request.method, path: parseTemplate(request.path).expand(parts), headers, body };
}

const remedy = 'Correct the connector.';

function plain(value: unknown, name: string): string | number | boolean {
  if (typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean') return value;
  throw new Refusal('malformed', `What stands for ${name} is neither a text nor a number.`, remedy);
}

/** What an answer is to be mapped to. */
export type MapAs =
  | { readonly as: 'resources' | 'metrics' | 'events' | 'feeds' | 'bills' | 'lines' | 'things' }
  | { readonly as: 'points'; readonly time: PointTime };

/** An answer, and how it is mapped. */
export type MapTask = MapAs & {
  readonly body: Uint8Array;
  /** Of where it was asked, for messages. */
  readonly path: string;
  readonly each: string;
  /** Left out where things are taken as they are. */
  readonly map?: string;
  /** Single values that are taken from the whole answer. */
  readonly take: Readonly<Record<string, string>>;
  readonly bindings: Bindings;
};

export interface MappedAnswer {
  readonly found:
    | { readonly as: 'resources'; readonly items: readonly FoundResource[] }
    | { readonly as: 'metrics'; readonly items: readonly FoundMetric[] }
    | { readonly as: 'events'; readonly items: readonly (FoundEvent | UnreadableEvent)[] }
    | { readonly as: 'feeds'; readonly items: readonly FoundFeed[] }
    | { readonly as: 'bills'; readonly items: readonly BillEntry[] }
    | { readonly as: 'lines'; readonly items: Uint8Array }
    | { readonly as: 'things'; readonly items: readonly unknown[] }
    | { readonly as: 'points'; readonly items: FetchedPage };
  /** What was taken; undefined where the expression gave nothing. */
  readonly taken: Readonly<Record<string, unknown>>;
}

/** Reads an answer and maps it. @throws Refusal (malformed) saying which thing does not fit, and why */
export async function mapAnswer(prelude: Prelude, task: MapTask): Promise<MappedAnswer> {
  const answer = readJson(task);
  const bindings = { ...task.bindings, answer };
  const items = listOf(await evaluate(prelude, task.each, answer, bindings));
  if (items.length > mostItems) throw unfit(task, `it has ${items.length} things, and ${mostItems} are taken at most`);
  const mapped = async (item: unknown) =>
    task.map === undefined ? item : await evaluate(prelude, task.map, item, bindings);
  const taken: Record<string, unknown> = {};
  for (const [name, expression] of Object.entries(task.take))
    taken[name] = plainCopy(await evaluate(prelude, expression, answer, bindings));
  return { found: await foundIn(task, items, mapped), taken };
}

/** Values of one kind of answer that stand alone. @throws Refusal */
export async function takeFrom(
  prelude: Prelude,
  { body, path, take, bindings }: Pick<MapTask, 'body' | 'path' | 'take' | 'bindings'>
): Promise<Readonly<Record<string, unknown>>> {
  return (await mapAnswer(prelude, { as: 'things', body, path, each: '[]', take, bindings })).taken;
}

function readJson({ body, path }: Pick<MapTask, 'body' | 'path'>): unknown {
  const answer: unknown = jsonOrNull(Buffer.from(body.buffer, body.byteOffset, body.byteLength).toString('utf8'));
  if (answer === null) throw unfit({ path }, 'it is no JSON, or was cut off');
  return answer;
}

async function foundIn(
  task: MapTask,
  items: readonly unknown[],
  mapped: (item: unknown) => Promise<unknown>
): Promise<MappedAnswer['found']> {
  const { as } = task;
  if (as === 'points') return { as, items: await pointsIn(task, task.time, items, mapped) };
  if (as === 'things') return { as, items: items.map(plainCopy) };
  if (as === 'lines') {
    const rows: string[] = [];
    for (const item of items) rows.push(JSON.stringify((await mapped(item)) ?? null));
    return { as, items: Buffer.from(rows.length === 0 ? '' : `${rows.join('\n')}\n`) };
  }
  if (as === 'events') {
    const events: (FoundEvent | UnreadableEvent)[] = [];
    for (const item of items) events.push(await eventFrom(item, mapped));
    return { as, items: events };
  }
  const all = async <T>(read: (value: unknown) => { success: true; data: T } | { success: false; error: never }) => {
    const found: T[] = [];
    for (const [index, item] of items.entries()) {
      const one = read(plainCopy(await mapped(item)));
      if (!one.success) throw unfit(task, `number ${index + 1} does not fit, ${whyUnfit(one.error)}`);
      found.push(one.data);
    }
    return found;
  };
  const { resource, metric, billed, feed } = foundSchemas;
  if (as === 'resources') return { as, items: await all((value) => resource.safeParse(value) as never) };
  if (as === 'metrics') return { as, items: await all((value) => metric.safeParse(value) as never) };
  if (as === 'feeds') return { as, items: await all((value) => feed.safeParse(value) as never) };
  return { as, items: await all((value) => billed.safeParse(value) as never) };
}

async function eventFrom(
  item: unknown,
  mapped: (item: unknown) => Promise<unknown>
): Promise<FoundEvent | UnreadableEvent> {
  try {
    return eventOf(plainCopy(await mapped(item)), item);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    const id = (item as { id?: unknown } | null)?.id;
    return {
      id: typeof id === 'string' ? id : null,
      why: error.message,
      example: (JSON.stringify(item) ?? '').slice(0, 200)
    };
  }
}

async function pointsIn(
  task: MapTask,
  time: PointTime,
  items: readonly unknown[],
  mapped: (item: unknown) => Promise<unknown>
): Promise<FetchedPage> {
  const series: FetchedSeries[] = [];
  let refused = 0;
  let refusedExample: string | null = null;
  for (const [index, item] of items.entries())
    for (const part of listOf(await mapped(item))) {
      const one = seriesOf(part, time);
      if ('why' in one) throw unfit(task, `series ${index + 1} does not fit, ${one.why}`);
      if (one.series !== null) series.push(one.series);
      refused += one.refused;
      refusedExample ??= one.refusedExample;
    }
  return { series, refused, refusedExample };
}

/** What JSONata gives has lists with marks of its own, and functions: here are only values. */
const plainCopy = (value: unknown): unknown =>
  value === undefined ? undefined : JSON.parse(JSON.stringify(value) ?? 'null');

const unfit = ({ path }: Pick<MapTask, 'path'>, why: string): Refusal =>
  new Refusal(
    'malformed',
    `The provider’s answer to ${path.split('?')[0] ?? path} does not fit the connector: ${why}.`,
    'Correct the mapping, or report it to the provider. Nothing was lost: Bussola asks for the same span again.'
  );
