import { resolve } from 'node:path';
import { Piscina } from 'piscina';
import type { Summary } from '$lib/core/summary';
import { unbundled } from '../../base/built';
import type { SummaryPictures } from './draw-days';

/** Draws summaries, in a thread that ends after a while without work. */
export interface DrawnSummaries {
  /** @throws when it takes too long */
  pictures(summary: Summary): Promise<SummaryPictures>;
  /** @throws when it takes too long */
  pdf(name: string, summary: Summary): Promise<Buffer>;
  close(): Promise<void>;
}

/** How long one may take, ms. */
const patienceMs = 20_000;

/** @example const bytes = await drawnSummaries().pdf('Week', summary) */
export function drawnSummaries(): DrawnSummaries {
  const worker = unbundled('summary/drawn/summary.worker.ts');
  // From the working directory, the project's folder: sources run in development and tests only.
  const filename = worker.endsWith('.ts') ? resolve('scripts/summary-worker.mjs') : worker;
  const pool = new Piscina<unknown, unknown>({
    ...{ filename, minThreads: 0, maxThreads: 1, idleTimeout: 20_000 },
    resourceLimits: { maxOldGenerationSizeMb: 192, maxYoungGenerationSizeMb: 8 }
  });
  const run = (task: unknown, name?: string): Promise<unknown> =>
    pool.run(task, { ...(name !== undefined && { name }), signal: AbortSignal.timeout(patienceMs) });
  // Bytes come back from a thread without being a buffer any more.
  const bufferOf = (bytes: Uint8Array | null): Buffer | null => (bytes === null ? null : Buffer.from(bytes));
  return {
    pictures: async (summary) => {
      const { incidents, cost } = (await run(summary)) as Record<keyof SummaryPictures, Uint8Array | null>;
      return { incidents: bufferOf(incidents), cost: bufferOf(cost) };
    },
    pdf: async (name, summary) => Buffer.from((await run({ name, summary }, 'pdf')) as Uint8Array),
    close: () => pool.destroy()
  };
}
