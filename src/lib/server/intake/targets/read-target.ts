import { isRefused, type Refusal } from '$lib/core/problem/problem';
import { readingAt, type ReceivedSeries } from '$lib/core/receive/received';
import { setTimeout as wait } from 'node:timers/promises';
import type { ReadPage, Targets } from '$lib/core/targets';
import type { Clock, Instant } from '$lib/core/time';
import type { ParserPool } from '../../parsing/parser-pool';
import type { PageTask } from '../../parsing/tasks';
import type { PageCaller } from './call-page';
import type { GatheredPage } from './gather-pages';
import type { ListedPage } from './list-pages';
import { targetMetrics, type TargetMetric } from './target-metrics';

/** What a page is asked for as. */
const accept = 'application/openmetrics-text; version=1.0.0, text/plain; version=0.0.4; q=0.5, */*; q=0.1';
/** A page larger than this is refused unread. */
const mostBytes = 16 * 1024 * 1024;

/** How long a page waits where the threads that read are busy, before it is tried again, ms. */
const busyPauseMs = 100;

/** What reading a page needs. */
export interface PageReader {
  readonly clock: Clock;
  readonly parsers: Pick<ParserPool, 'page'>;
}

/**
 * Reads one page. Why it could not be read is part of the result: nothing is thrown that people can understand.
 *
 * @example (await readTarget(reader, caller, page, definition)).reading.isUp // true
 */
export async function readTarget(
  { clock, parsers }: PageReader,
  caller: PageCaller,
  page: ListedPage,
  { rules, patienceSeconds }: Pick<Targets, 'rules' | 'patienceSeconds'>
): Promise<GatheredPage> {
  const readAt = clock.now();
  const begun = performance.now();
  const took = (): number => Math.round(performance.now() - begun);
  try {
    const body = await caller.read(page.url, { accept, patienceMs: patienceSeconds * 1000, mostBytes });
    const tookMs = took();
    const { series, refused, faults, samples, leftOut } = await parsedInTurn(parsers, {
      ...{ body, target: page, rules, now: readAt }
    });
    return {
      reading: {
        ...{ name: page.name, isUp: true, readAt, tookMs, samples, leftOut },
        problem: refused.length > 0 ? (faults[0] ?? null) : null
      },
      received: { series: [...series, ...measured(page, readAt, { up: 1, tookMs, samples })], refused, faults }
    };
  } catch (error) {
    if (!isRefused(error)) throw error;
    const tookMs = took();
    return {
      reading: {
        ...{ name: page.name, isUp: false, readAt, tookMs, samples: 0, leftOut: 0 },
        problem: wordsOf(error)
      },
      received: { series: measured(page, readAt, { up: 0, tookMs, samples: 0 }), refused: [], faults: [] }
    };
  }
}

/** Reads a page where much else waits to be read, too: that the threads are busy says nothing of the page. */
async function parsedInTurn(parsers: PageReader['parsers'], task: PageTask): Promise<ReadPage> {
  for (;;)
    try {
      return await parsers.page(task);
    } catch (error) {
      if (!isRefused(error, 'busy')) throw error;
      await wait(busyPauseMs);
    }
}

const wordsOf = ({ message, remedy }: Refusal): string => `${message} ${remedy}`;

function measured(
  { name, labels }: ListedPage,
  at: Instant,
  { up, tookMs, samples }: { readonly up: 0 | 1; readonly tookMs: number; readonly samples: number }
): ReceivedSeries[] {
  const values: Readonly<Record<TargetMetric, number>> = {
    'target.up': up,
    'target.duration': tookMs / 1000,
    'target.samples': samples
  };
  return (Object.keys(targetMetrics) as TargetMetric[]).map((metric) => ({
    resource: { id: name, name, tags: labels },
    metric: {
      name: metric,
      kind: 'gauge',
      unit: targetMetrics[metric].unit,
      description: targetMetrics[metric].description
    },
    ...{ labels: {}, weight: 1, points: [readingAt(at, values[metric])], starts: [null] }
  }));
}
