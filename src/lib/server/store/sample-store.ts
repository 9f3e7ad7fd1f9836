import * as Comlink from 'comlink';
import { decodeBatch, encodeBatch, type BatchBlock, type Frame, type Statistic } from '$lib/core/series';
import type { Duration, Instant, Range } from '$lib/core/time';
import { openPool, type Connection, type Database } from '../db/pool';
import { frameJson, type FrameSeries } from './frame-json';
import { Head } from './head';
import { appendToJournal, journalAfter, journalSize } from './journal';

/** What an append did. */
export interface Appended {
  /** Points that said something new and were written. */
  readonly written: number;
  /** Start of the newest point of the batch; null for an empty one. */
  readonly newest: number | null;
}

export interface StoreProgress {
  readonly readBatches: number;
  readonly allBatches: number;
  readonly ready: boolean;
}

/** Journal and head together. Its methods take and give only what can cross a thread's border. */
export class SampleStore {
  readonly #db: Database;
  readonly #head = new Head();
  #lastId = 0;
  #progress: StoreProgress = { readBatches: 0, allBatches: 0, ready: false };
  #catchingUp: Promise<void> = Promise.resolve();

  constructor(connection: Connection) {
    this.#db = openPool(connection, 2);
  }

  progress(): StoreProgress {
    return this.#progress;
  }

  /** Rebuilds the head from the journal. Queries wait for it. */
  async open(): Promise<void> {
    const { batches } = await journalSize(this.#db);
    this.#progress = { readBatches: 0, allBatches: batches, ready: false };
    await this.#catchUp();
    this.#progress = { ...this.#progress, ready: true };
  }

  /**
   * Keeps a batch. Points already known with the same values are left out, so that pulling twice costs nothing. When this resolves, the batch is
   * in the journal: committed means kept.
   *
   * @param bytes as `encodeBatch` writes them: one buffer crosses the thread's border faster than many columns
   */
  async append(accountId: number, receivedAt: Instant, bytes: Uint8Array): Promise<Appended> {
    await this.#catchingUp;
    const blocks = decodeBatch(bytes);
    const news = this.#head.newOf(blocks);
    const span = spanOf(news);
    if (span !== null) {
      const id = await appendToJournal(this.#db, {
        accountId,
        receivedAt,
        ...span,
        bytes: span.points === pointsOf(blocks) ? bytes : encodeBatch(news)
      });
      if (id === this.#lastId + 1) this.#take(id, news);
      else await this.#catchUp(); // another process has written in between
    }
    const newest = spanOf(blocks)?.to;
    return { written: span?.points ?? 0, newest: newest === undefined ? null : newest - 1 };
  }

  newest(seriesIds: readonly number[]): (number | null)[] {
    return seriesIds.map((id) => this.#head.newest(id));
  }

  /** @throws RangeError when the grid would be too large */
  async frame(seriesIds: readonly number[], range: Range, step: Duration, statistic: Statistic): Promise<Frame> {
    await this.#catchUp();
    const frame = this.#head.frame(seriesIds, range, step, statistic);
    return Comlink.transfer(
      frame,
      frame.columns.map(({ values }) => values.buffer as ArrayBuffer)
    );
  }

  /** A frame as the JSON text of the API, written here so that the web process only passes bytes on. */
  async frameBytes(
    series: readonly FrameSeries[],
    range: Range,
    step: Duration,
    statistic: Statistic,
    now: Instant
  ): Promise<Uint8Array> {
    await this.#catchUp();
    const frame = this.#head.frame(
      series.map(({ id }) => id),
      range,
      step,
      statistic
    );
    const bytes = new TextEncoder().encode(frameJson(frame, series, now));
    return Comlink.transfer(bytes, [bytes.buffer]);
  }

  async close(): Promise<void> {
    await this.#catchingUp.catch(() => undefined); // whoever waited for it has the error
    await this.#db.close();
  }

  /** Reads on from the last batch seen; one reader at a time, each caller sees at least what was committed before it called. */
  #catchUp(): Promise<void> {
    const next = this.#catchingUp.catch(() => undefined).then(() => this.#readOn());
    this.#catchingUp = next;
    return next;
  }

  #take(id: number, blocks: readonly BatchBlock[]): void {
    this.#head.take(blocks);
    this.#lastId = id;
  }

  async #readOn(): Promise<void> {
    for (;;) {
      const rows = await journalAfter(this.#db, this.#lastId);
      if (rows.length === 0) return;
      for (const { id, batch } of rows) if (id > this.#lastId) this.#take(id, decodeBatch(batch));
      this.#progress = { ...this.#progress, readBatches: this.#progress.readBatches + rows.length };
    }
  }
}

const pointsOf = (blocks: readonly BatchBlock[]): number =>
  blocks.reduce((sum, { points }) => sum + points.at.length, 0);

function spanOf(blocks: readonly BatchBlock[]): { from: number; to: number; points: number } | null {
  let from = Infinity;
  let to = -Infinity;
  let points = 0;
  for (const {
    points: { at }
  } of blocks) {
    if (at.length === 0) continue;
    points += at.length;
    from = Math.min(from, at[0] as number);
    to = Math.max(to, (at[at.length - 1] as number) + 1);
  }
  return points === 0 ? null : { from, to, points };
}
