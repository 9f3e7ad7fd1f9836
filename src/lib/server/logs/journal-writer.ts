import type { Line } from '$lib/core/logs';
import type { Instant } from '$lib/core/time';
import { namesWhatIsGone, type Database } from '../db/pool';
import { saveProgress, type FeedProgress } from './feeds/feeds';
import type { Journalled } from './held-lines';
import { journalLines, type NewLines } from './journal';
import { streamId } from './streams';

/** Lines of one stream and one origin, as they are appended. */
export interface Arriving {
  readonly accountId: number;
  readonly service: string;
  readonly stream: string;
  readonly resourceId: number | null;
  /** As `encodeBatch` writes them. */
  readonly batch: Uint8Array;
}

/** What lines of a feed come by. */
export interface ComesBy {
  readonly progress: FeedProgress;
  readonly isHistory: boolean;
}

/** Writes lines into the journal, and with them how far a feed has come. */
export class JournalWriter {
  readonly #db: Database;
  /** Ids of streams by their names, as they arrive. */
  readonly #ids = new Map<string, number>();

  constructor(db: Database) {
    this.#db = db;
  }

  /** When this resolves they are stored: committed means stored. */
  async write(
    read: readonly (Arriving & { readonly lines: readonly Line[] })[],
    receivedAt: Instant,
    by: ComesBy | null
  ): Promise<Journalled[]> {
    if (read.length === 0) {
      if (by !== null) await saveProgress(this.#db, by.progress, by.isHistory);
      return [];
    }
    try {
      return await this.#write(read, receivedAt, by);
    } catch (error) {
      if (!namesWhatIsGone(error)) throw error;
      this.#ids.clear(); // a stream that was known was removed with its account, which may be there anew
      return this.#write(read, receivedAt, by);
    }
  }

  async #write(
    read: readonly (Arriving & { readonly lines: readonly Line[] })[],
    receivedAt: Instant,
    by: ComesBy | null
  ): Promise<Journalled[]> {
    const batches: (NewLines & { readonly read: readonly Line[] })[] = [];
    for (const one of read)
      batches.push({ ...one, lines: one.lines.length, read: one.lines, streamId: await this.#idOf(one) });
    const ids =
      by === null
        ? await journalLines(this.#db, batches, receivedAt)
        : await this.#db.transaction(async (within) => {
            await saveProgress(within, by.progress, by.isHistory);
            return journalLines(within, batches, receivedAt);
          });
    return batches.map(({ streamId, read: lines }, index) => ({ id: ids[index] ?? 0, streamId, lines }));
  }

  async #idOf({ accountId, service, stream }: Arriving): Promise<number> {
    const key = JSON.stringify([accountId, service, stream]);
    let id = this.#ids.get(key);
    if (id === undefined) {
      id = await streamId(this.#db, { accountId, service, name: stream });
      this.#ids.set(key, id);
    }
    return id;
  }
}
