import * as Comlink from 'comlink';
import {
  decodeBatch,
  encodeBatch,
  type BatchBlock,
  type Frame,
  type Statistic,
  type SummaryPoints
} from '$lib/core/series';
import { range, type Duration, type Grid, type Instant, type Range } from '$lib/core/time';
import type { Database } from '../db/pool';
import { DutyLost, type Held } from '../duties/duties';
import { ArrivalLog } from './arrival-log';
import { ChunkCache } from './chunk-cache';
import { allSpans, sealedUpTo, type SeriesSpan } from './chunks';
import { Head, newAgainst } from './head';
import { eraseSome } from './erase';
import { appendToJournal, journalAfter, journalEntries, journalSize } from './journal';
import { newestOf, readFrame, readPoints, type Sources } from './read';
import { dueForSealing, seal, type SealLimits } from './seal';

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

/** Points sealed between two vacuums. */
const vacuumEvery = 1_000_000;

/** Journal, head and chunks together. Its methods take and give only what can cross a thread's border. */
export class SampleStore {
  readonly #db: Database;
  readonly #head = new Head();
  readonly #arrivals = new ArrivalLog();
  readonly #cache: ChunkCache;
  #spans = new Map<number, SeriesSpan>();
  #lastId = 0;
  #sealedId = 0;
  /** Changes whenever sealed points leave the head. */
  #generation = 0;
  #untidied = 0;
  #progress: StoreProgress = { readBatches: 0, allBatches: 0, ready: false };
  #catchingUp: Promise<void> = Promise.resolve();
  /** Sealing and erasing take turns. */
  #rewriting: Promise<unknown> = Promise.resolve();

  /** @param db is closed with the store */
  constructor(db: Database) {
    this.#db = db;
    this.#cache = new ChunkCache(db);
  }

  progress(): StoreProgress {
    return this.#progress;
  }

  /** Rebuilds the head from the journal. Queries wait for it. */
  async open(): Promise<void> {
    const { batches } = await journalSize(this.#db);
    this.#progress = { readBatches: 0, allBatches: batches, ready: false };
    await this.#forgetSealed();
    await this.#catchUp();
    this.#progress = { ...this.#progress, ready: true };
  }

  /**
   * Keeps a batch. Points already known with the same values are left out, so that pulling twice costs nothing. When this resolves, the batch is
   * in the journal: committed means stored.
   *
   * @param bytes as `encodeBatch` writes them: one buffer crosses the thread's border faster than many columns
   */
  async append(accountId: number, receivedAt: Instant, bytes: Uint8Array): Promise<Appended> {
    await this.#catchingUp;
    const blocks = decodeBatch(bytes);
    const news = await this.#notSealed(this.#head.newOf(blocks));
    const span = spanOf(news);
    if (span !== null) {
      const id = await appendToJournal(this.#db, {
        accountId,
        receivedAt,
        ...span,
        bytes: span.points === pointsOf(blocks) ? bytes : encodeBatch(news)
      });
      if (id === this.#lastId + 1) this.#take(id, receivedAt, news);
      else await this.#catchUp(); // another process has written in between
    }
    const newest = spanOf(blocks)?.to;
    return { written: span?.points ?? 0, newest: newest === undefined ? null : newest - 1 };
  }

  newest(seriesIds: readonly number[]): (number | null)[] {
    return seriesIds.map((id) => newestOf(id, this.sources()));
  }

  /** When the newest sample of each cell of a series came, as far as that was within the last ten minutes; null where it is not known. */
  cameAt(seriesId: number, grid: Grid): (Instant | null)[] {
    return this.#arrivals.of(seriesId, grid);
  }

  /** @throws RangeError when the grid would be too large */
  async frame(seriesIds: readonly number[], range: Range, step: Duration, statistic: Statistic): Promise<Frame> {
    const frame = await readFrame(seriesIds, range, step, statistic, this.sources, this.settled);
    return Comlink.transfer(
      frame,
      frame.columns.map(({ values }) => values.buffer as ArrayBuffer)
    );
  }

  /** The samples of series over a half-open range, as they came. */
  async points(seriesIds: readonly number[], range: Range): Promise<SummaryPoints[]> {
    return readPoints(seriesIds, range, 0, this.sources, this.settled);
  }

  /**
   * Moves the journal's older batches into chunks.
   *
   * @param held the duty under which it seals; nothing is written once another process has taken that over
   * @returns how many batches were sealed
   */
  seal(limits: SealLimits, now: Instant, held: Held | null = null): Promise<number> {
    return this.#inTurn(() => this.#seal(limits, now, held));
  }

  /** Erases the samples of an account that takes no more. */
  async erase(accountId: number): Promise<void> {
    while ((await this.eraseSome(accountId)) > 0);
    await this.forgetErased();
  }

  /**
   * Erases some of the samples of an account that takes no more: whoever waits for the store goes in between. What is in memory of it stays until {@link forgetErased}.
   *
   * @returns rows that were removed; 0 once all are
   */
  eraseSome(accountId: number): Promise<number> {
    return this.#inTurn(() => eraseSome(this.#db, accountId));
  }

  /** Reads anew what is stored, once something of it was erased. */
  forgetErased(): Promise<void> {
    return this.#inTurn(async () => {
      const next = this.#catchingUp.catch(() => undefined).then(() => this.#forgetSealed());
      this.#catchingUp = next;
      await next;
      await this.#catchUp();
    });
  }

  #inTurn<Done>(work: () => Promise<Done>): Promise<Done> {
    const next = this.#rewriting.catch(() => undefined).then(work);
    this.#rewriting = next;
    return next;
  }

  async #seal(limits: SealLimits, now: Instant, held: Held | null): Promise<number> {
    const due = dueForSealing(await journalEntries(this.#db), limits);
    const sealedId = await seal(this.#db, due, now, (key) => this.#cache.forget(key), held).catch((error: unknown) => {
      if (error instanceof DutyLost) return null; // whoever has it now seals the same
      throw error;
    });
    if (sealedId === null) return 0;
    await this.#catchUp();
    await this.#tidy(due.reduce((sum, { points }) => sum + points, 0));
    return due.length;
  }

  /** The embedded database does not vacuum by itself: what sealing removed is given back now and then. */
  async #tidy(sealedPoints: number): Promise<void> {
    this.#untidied += sealedPoints;
    if (this.#untidied < vacuumEvery) return;
    this.#untidied = 0;
    await this.#db.rows('vacuum journal');
    await this.#db.rows('vacuum chunks');
  }

  /** Forgets what was decoded, after chunks were removed. */
  forgetDecoded(): void {
    this.#cache.clear();
  }

  async close(): Promise<void> {
    await this.#catchingUp.catch(() => undefined); // whoever waited for it has the error
    await this.#db.close();
  }

  /** What reading needs, as it is at this moment; for those in the same thread. */
  readonly sources = (): Sources => ({ cache: this.#cache, spans: this.#spans, head: this.#head });

  /** Resolves when all that was committed before is seen, with a number that changes whenever sealed points leave the head. */
  readonly settled = async (): Promise<number> => {
    await this.#catchUp();
    return this.#generation;
  };

  /** What of some blocks is not sealed already. Only blocks that touch the sealed span of their series are looked up. */
  async #notSealed(blocks: readonly BatchBlock[]): Promise<BatchBlock[]> {
    const doubtful = blocks.filter(({ seriesId, points: { at } }) => {
      const span = this.#spans.get(seriesId);
      return span !== undefined && (at[0] as number) <= span.newest && (at.at(-1) as number) >= span.oldest;
    });
    const span = spanOf(doubtful);
    if (span === null) return [...blocks];
    const ids = doubtful.map(({ seriesId }) => seriesId);
    const known = await readPoints(ids, range(span.from as Instant, span.to as Instant), 0, this.sources, this.settled);
    return blocks.flatMap((block) => {
      const index = doubtful.indexOf(block);
      return index === -1 ? [block] : newAgainst(known[index] as SummaryPoints, block);
    });
  }

  /** Reads on from the last batch seen; one reader at a time, each caller sees at least what was committed before it called. */
  #catchUp(): Promise<void> {
    const next = this.#catchingUp.catch(() => undefined).then(() => this.#readOn());
    this.#catchingUp = next;
    return next;
  }

  #take(id: number, receivedAt: Instant, blocks: readonly BatchBlock[]): void {
    this.#head.take(blocks);
    this.#arrivals.note(id, receivedAt, blocks);
    this.#lastId = id;
  }

  async #readOn(): Promise<void> {
    for (;;) {
      const { sealedId, batches } = await journalAfter(this.#db, this.#lastId);
      if (sealedId !== this.#sealedId) {
        await this.#forgetSealed();
        continue;
      }
      if (batches.length === 0) return;
      for (const { id, batch, received_at } of batches)
        if (id > this.#lastId) this.#take(id, received_at, decodeBatch(batch));
      this.#progress = { ...this.#progress, readBatches: this.#progress.readBatches + batches.length };
    }
  }

  /** Begins the head anew behind what is sealed: its points are in chunks now, whoever sealed them. */
  async #forgetSealed(): Promise<void> {
    const { sealedId, spans } = await this.#db.transaction(async (within) => ({
      sealedId: await sealedUpTo(within),
      spans: await allSpans(within)
    }));
    this.#cache.clear();
    this.#spans = new Map(spans.map((span) => [span.seriesId, span]));
    this.#sealedId = sealedId;
    this.#lastId = sealedId;
    this.#head.clear();
    this.#generation++;
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
