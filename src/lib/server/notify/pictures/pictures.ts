import { resolve } from 'node:path';
import { Piscina } from 'piscina';
import { unbundled } from '../../base/built';
import { threadFault } from '../../base/thread-fault';
import type { PictureFacts } from './draw';
import type { Redrawn } from './redraw';

/** Draws pictures for messages, in a thread that ends after a while without work. */
export interface Pictures {
  /** @returns a PNG @throws when it takes too long */
  draw(facts: PictureFacts): Promise<Buffer>;
  /** A picture from outside as one of our own. @throws Refusal `too-large` when it takes too long, or too much memory */
  redraw(bytes: Uint8Array): Promise<Redrawn>;
  close(): Promise<void>;
}

/** How long a message waits for its picture, and a person for one that they add, ms: with the start of the thread, and what is drawn before it. */
const [drawingMs, redrawingMs] = [5_000, 20_000];

/** @example const png = await pictures().draw(facts) */
export function pictures(): Pictures {
  const worker = unbundled('notify/pictures/picture.worker.ts');
  // From the working directory, the project's folder: sources run in development and tests only.
  const filename = worker.endsWith('.ts') ? resolve('scripts/picture-worker.mjs') : worker;
  const pool = new Piscina<PictureFacts | Uint8Array, ArrayBuffer | Redrawn>({
    ...{ filename, minThreads: 0, maxThreads: 1, idleTimeout: 20_000 },
    resourceLimits: { maxOldGenerationSizeMb: 128, maxYoungGenerationSizeMb: 8 }
  });
  return {
    draw: async (facts) =>
      Buffer.from((await pool.run(facts, { signal: AbortSignal.timeout(drawingMs) })) as ArrayBuffer),
    redraw: async (bytes) =>
      (await pool.run(bytes, { name: 'redraw', signal: AbortSignal.timeout(redrawingMs) }).catch((error: unknown) => {
        throw threadFault(error, redrawingMs);
      })) as Redrawn,
    close: () => pool.destroy()
  };
}
