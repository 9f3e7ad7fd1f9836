import { LRUCache } from 'lru-cache';
import { resolve } from 'node:path';
import { Piscina } from 'piscina';
import type { Summary } from '$lib/core/summary';
import { unbundled } from '../../base/built';
import type { StoredSummary } from '../summaries';
import type { SummaryPictures } from './draw-days';

/** A summary as it is sent: its pictures, and the whole as a PDF. */
export interface DrawnSummary extends SummaryPictures {
  readonly pdf: Buffer;
}

/** Draws summaries, in a thread that ends after a while without work. */
export interface DrawnSummaries {
  /** @throws when it takes too long */
  draw(name: string, summary: Summary): Promise<DrawnSummary>;
  /** One that is stored, which never changes: drawn once for all who receive it within minutes. @throws when it takes too long */
  drawStored(stored: Pick<StoredSummary, 'id' | 'name' | 'summary'>): Promise<DrawnSummary>;
  close(): Promise<void>;
}

/** How long one may take, ms. */
const patienceMs = 20_000;
/** Stored ones that are remembered, and for how long, ms: the messages of one leave together. */
const [mostRemembered, rememberedMs] = [8, 600_000];

/** @example const { pdf } = await drawnSummaries().draw('Week', summary) */
export function drawnSummaries(): DrawnSummaries {
  const worker = unbundled('summary/drawn/summary.worker.ts');
  // From the working directory, the project's folder: sources run in development and tests only.
  const filename = worker.endsWith('.ts') ? resolve('scripts/summary-worker.mjs') : worker;
  const pool = new Piscina<unknown, Record<keyof DrawnSummary, Uint8Array | null>>({
    ...{ filename, minThreads: 0, maxThreads: 1, idleTimeout: 20_000 },
    resourceLimits: { maxOldGenerationSizeMb: 192, maxYoungGenerationSizeMb: 8 }
  });
  // Bytes come back from a thread without being a buffer any more.
  const bufferOf = (bytes: Uint8Array | null): Buffer | null => (bytes === null ? null : Buffer.from(bytes));
  const draw = async (name: string, summary: Summary): Promise<DrawnSummary> => {
    const { incidents, cost, pdf } = await pool.run({ name, summary }, { signal: AbortSignal.timeout(patienceMs) });
    return { incidents: bufferOf(incidents), cost: bufferOf(cost), pdf: Buffer.from(pdf ?? []) };
  };
  const remembered = new LRUCache<number, DrawnSummary, Pick<StoredSummary, 'name' | 'summary'>>({
    ...{ max: mostRemembered, ttl: rememberedMs },
    fetchMethod: (_id, _stale, { context: { name, summary } }) => draw(name, summary)
  });
  return {
    draw,
    drawStored: ({ id, name, summary }) => remembered.forceFetch(id, { context: { name, summary } }),
    close: () => pool.destroy()
  };
}
