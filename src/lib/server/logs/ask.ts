import { setTimeout as wait } from 'node:timers/promises';
import {
  readSearch,
  type FoundLine,
  type LogTally,
  type ShownFollowed,
  type ShownLine,
  type ShownProgress
} from '$lib/core/logs';
import { Refusal } from '$lib/core/problem/problem';
import type { Range } from '$lib/core/time';
import { allResources } from '../inventory/resources';
import type { Readers } from '../base/readers';
import type { Queryable } from '../db/pool';
import type { LogClient } from './open-logs';
import type { LogQuery } from './log-search';
import type { TallyQuery } from './log-tally';
import type { Stream } from './streams';

/** What asking for lines needs. */
interface Lines {
  readonly db: Queryable;
  readonly logs: LogClient;
}

/** Gives lines the names of where they are from. */
export class LineNames {
  readonly #streams: ReadonlyMap<number, Stream>;
  readonly resources: ReadonlyMap<number, string>;

  constructor(streams: readonly Stream[], resources: ReadonlyMap<number, string>) {
    this.#streams = new Map(streams.map((stream) => [stream.id, stream]));
    this.resources = resources;
  }

  static async of({ db, logs }: Lines): Promise<LineNames> {
    const [streams, resources] = await Promise.all([logs.logs.streams(), allResources(db)]);
    return new LineNames(streams, new Map(resources.map(({ id, name }) => [id, name])));
  }

  knows(streamId: number): boolean {
    return this.#streams.has(streamId);
  }

  streamOf(streamId: number): string {
    return this.#streams.get(streamId)?.name ?? '';
  }

  shown(line: FoundLine): ShownLine {
    const stream = this.#streams.get(line.streamId);
    return {
      ...line,
      stream: stream?.name ?? '',
      service: stream?.service ?? '',
      account: stream?.account ?? '',
      resource: line.resourceId === null ? '' : (this.resources.get(line.resourceId) ?? '')
    };
  }
}

/** What is asked of lines. */
export interface Asked extends Pick<LogQuery, 'text' | 'most' | 'step' | 'accounts'> {
  readonly range: Range;
}

/**
 * Searches lines and says how far it came, again and again, until all is looked at or nobody wants to know any more.
 *
 * @throws Refusal for a search that cannot be read, with the place in it, and while too many are under way
 */
export async function* searchLines(
  server: Lines & { readonly readers: Readers },
  asked: Asked,
  isWanted: () => boolean = () => true
): AsyncGenerator<ShownProgress> {
  readSearch(asked.text);
  const answered = server.readers.begin();
  const { logs } = server.logs;
  let ticket: number | null = null;
  try {
    const names = await LineNames.of(server);
    ticket = await logs.search({ ...asked, resources: names.resources });
    if (ticket === null)
      throw new Refusal('busy', 'Too many searches are under way.', 'Search again in a few seconds.');
    while (isWanted()) {
      const progress = await logs.progress(ticket);
      if (progress === null) return;
      yield {
        ...progress,
        lines: progress.lines.map((line) => names.shown(line)),
        shapes: progress.shapes.map((shape) => ({ ...shape, stream: names.streamOf(shape.streamId) }))
      };
      if (progress.isDone) return;
    }
  } finally {
    answered();
    // Also where whoever asked is gone in the midst of it.
    if (ticket !== null) await logs.cancel(ticket);
  }
}

/** How often it is looked what has come, ms of real time. */
const lookEveryMs = 250;

/**
 * Follows a search: says again and again what has come, also nothing, until nobody wants to know any more. Lines that are much older when they arrive are history that is filled in, and are not among them.
 *
 * @throws Refusal for a search that cannot be read, with the place in it, and while too many are followed
 */
export async function* followSearch(
  server: Lines,
  asked: Pick<LogQuery, 'text' | 'accounts'>,
  signal: AbortSignal
): AsyncGenerator<ShownFollowed> {
  readSearch(asked.text);
  const { logs } = server.logs;
  let names = await LineNames.of(server);
  const ticket = await logs.follow({ ...asked, resources: names.resources });
  if (ticket === null)
    throw new Refusal(
      'busy',
      'Too many people follow lines at once.',
      'Search instead, or try again in a few minutes.'
    );
  try {
    while (!signal.aborted) {
      const followed = await logs.followed(ticket);
      if (followed === null) return;
      if (!followed.lines.every(({ streamId }) => names.knows(streamId))) names = await LineNames.of(server);
      yield { ...followed, lines: followed.lines.map((line) => names.shown(line)) };
      await wait(lookEveryMs, undefined, { signal }).catch(() => undefined);
    }
  } finally {
    await logs.unfollow(ticket);
  }
}

/**
 * Counts lines by the values of a field.
 *
 * @param patience how long it may take, ms
 * @throws Refusal for a search that cannot be read, with the place in it, and while too many are counted
 */
export async function countLines(
  server: Lines,
  asked: Omit<TallyQuery, 'resources'>,
  patience: number
): Promise<LogTally> {
  readSearch(asked.text);
  const resources = new Map((await allResources(server.db)).map(({ id, name }) => [id, name]));
  const tally = await server.logs.logs.tally({ ...asked, resources }, patience);
  if (tally === null)
    throw new Refusal('busy', 'Too many people count lines at once.', 'Count again in a few seconds.');
  return tally;
}
