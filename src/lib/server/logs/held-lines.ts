import { decodeBatch, writeSegment, type Line } from '$lib/core/logs';
import { groupBy } from '$lib/core/lists/group-by';
import { day, type Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import { journalledAfter } from './journal';
import { StreamHead, type ShapedLine } from './log-head';
import type { Searched } from './log-walk';
import { removeDueLines } from './retention';
import {
  allShapes,
  isDamage,
  noteSealed,
  putSegment,
  putShapes,
  segmentsAfter,
  type SegmentEntry,
  type StoredShape
} from './segments';
import { allStreams, takeStream, type Stream } from './streams';

/** Lines that are in the journal. */
export interface Journalled {
  readonly id: number;
  readonly streamId: number;
  readonly lines: readonly Line[];
}

/** When lines are sealed. */
export interface SealLimits {
  /** Lines of a stream from which on it is sealed, and the most that a segment has. */
  readonly lines: number;
  /** How long lines wait at most. */
  readonly waits: number;
  /** Lines of all streams together that wait, and their bytes: beyond, those of the longest stream are sealed first. */
  readonly all: number;
  readonly bytes: number;
}
export const usualLimits: SealLimits = { lines: 16_384, waits: day, all: 100_000, bytes: 24 * 1024 * 1024 };

/** Hears of lines of a stream as they come in, and what is known of its shapes. */
type OnTaken = (
  stream: Stream | undefined,
  lines: readonly ShapedLine[],
  receivedAt: Instant,
  shapeOf: StreamHead['shape']
) => void;

/** What of the stored lines is in memory: streams, lines that are not sealed, and where segments are. It takes one call at a time. */
export class HeldLines {
  readonly #db: Database;
  readonly #onTaken: OnTaken;
  readonly #heads = new Map<number, StreamHead>();
  #streams = new Map<number, Stream>();
  #segments: SegmentEntry[] = [];
  #shapes = new Map<number, StoredShape[]>();
  #lastId = 0;
  #lastSegment = 0;

  /** @param onTaken hears of lines as they come in */
  constructor(db: Database, onTaken: OnTaken) {
    this.#db = db;
    this.#onTaken = onTaken;
  }

  /** Rebuilds it from the journal. */
  async open(): Promise<void> {
    this.#shapes = groupBy(await allShapes(this.#db), ({ streamId: id }) => id);
    await this.catchUp();
  }

  get streams(): ReadonlyMap<number, Stream> {
    return this.#streams;
  }

  get segments(): readonly SegmentEntry[] {
    return this.#segments;
  }

  /** Lines that are not sealed, and their bytes, about. */
  get waiting(): number {
    return [...this.#heads.values()].reduce((sum, { length }) => sum + length, 0);
  }
  get bytes(): number {
    return [...this.#heads.values()].reduce((sum, { bytes }) => sum + bytes, 0);
  }

  /** Batches of the journal that are damaged. */
  get damaged(): number {
    return [...this.#heads.values()].reduce((sum, { damaged }) => sum + damaged.length, 0);
  }

  /** Takes lines that were just journalled; all that others have written in between as well. */
  async take(journalled: readonly Journalled[], receivedAt: Instant): Promise<void> {
    const isNext = journalled.every(({ id }, index) => id === this.#lastId + 1 + index);
    if (!isNext || !journalled.every(({ streamId }) => this.#streams.has(streamId))) return this.catchUp();
    for (const { id, streamId, lines } of journalled) {
      this.#took(streamId, this.#headOf(streamId).take(id, receivedAt, lines), receivedAt);
      this.#lastId = id;
    }
  }

  /** Takes what was written since the last time, here or by another process. Streams come first: what another process sealed meanwhile is in segments that are read after them. */
  async catchUp(): Promise<void> {
    this.#streams = new Map((await allStreams(this.#db)).map((stream) => [stream.id, stream]));
    for (const id of this.#heads.keys()) if (!this.#streams.has(id)) this.#heads.delete(id);
    this.#segments = this.#segments.filter((segment) => this.#streams.has(segment.streamId));
    for (;;) {
      const batches = await journalledAfter(this.#db, this.#lastId);
      for (const { id, streamId: of, resourceId, receivedAt, batch } of batches) {
        const lines = decodedOrNull(batch, resourceId);
        if (lines === null) this.#headOf(of).passOver(id);
        else this.#took(of, this.#headOf(of).take(id, receivedAt, lines), receivedAt);
        this.#lastId = id;
      }
      if (batches.length === 0) break;
    }
    const segments = await segmentsAfter(this.#db, this.#lastSegment);
    if (segments.length > 0) {
      this.#segments.push(...segments);
      this.#lastSegment = segments.at(-1)?.id ?? this.#lastSegment;
      // Where there are new segments, the journal they were made of is gone.
      this.#streams = new Map((await allStreams(this.#db)).map((stream) => [stream.id, stream]));
    }
    for (const [id, { sealedId }] of this.#streams) this.#heads.get(id)?.forget(sealedId);
  }

  #took(id: number, lines: readonly ShapedLine[], receivedAt: Instant): void {
    const head = this.#headOf(id);
    this.#onTaken(this.#streams.get(id), lines, receivedAt, (shape) => head.shape(shape));
  }

  #headOf(id: number): StreamHead {
    let head = this.#heads.get(id);
    if (head === undefined) this.#heads.set(id, (head = new StreamHead(this.#shapes.get(id) ?? [])));
    return head;
  }

  /** @returns how many lines were sealed: none where another process is about it, whose segments are read the next time */
  async #sealStream(id: number, head: StreamHead, now: Instant, most: number): Promise<number> {
    const lines = head.inOrder;
    return this.#db.transaction(async (within) => {
      if (!(await takeStream(within, id, this.#streams.get(id)?.sealedId ?? 0))) return 0;
      for (const some of inPeriods(lines, most)) {
        const shapes = some.map(({ shape }) => shape);
        await putSegment(within, id, writeSegment(some, shapes), now);
      }
      await putShapes(within, head.shapes(id));
      await noteSealed(within, id, head.lastId, head.damaged);
      return lines.length;
    });
  }

  /**
   * Moves what waits into segments, where it is due.
   *
   * @returns how many lines were sealed
   */
  async seal(now: Instant, limits: SealLimits): Promise<number> {
    await this.catchUp();
    let sealed = 0;
    let waiting = this.waiting;
    let bytes = this.bytes;
    const failures: unknown[] = [];
    for (const [id, head] of [...this.#heads].sort(([, a], [, b]) => b.bytes - a.bytes)) {
      const isDue =
        head.length >= limits.lines ||
        waiting > limits.all ||
        bytes > limits.bytes ||
        (head.waitsSince !== null && now - head.waitsSince >= limits.waits);
      if (!isDue || head.length === 0) continue;
      waiting -= head.length;
      bytes -= head.bytes;
      try {
        sealed += await this.#sealStream(id, head, now, limits.lines);
      } catch (error) {
        failures.push(error); // that one stream cannot be sealed holds no other up
      }
    }
    if (sealed > 0) await this.catchUp();
    if (failures.length > 0) throw failures[0];
    return sealed;
  }

  /** Removes segments whose time is over, as plans say. @returns how many */
  async retain(now: Instant): Promise<number> {
    const removed = new Set(await removeDueLines(this.#db, now));
    if (removed.size > 0) this.#segments = this.#segments.filter(({ id }) => !removed.has(id));
    return removed.size;
  }

  /** What there is to search at this moment. */
  searched(): Searched {
    return {
      streams: this.#streams,
      heads: new Map([...this.#heads].map(([id, head]) => [id, head.inOrder])),
      segments: this.#segments,
      shapeOf: (id, shape) => this.#headOf(id).shape(shape)
    };
  }
}

/** The lines of a batch; null for one that is damaged: it hides nothing but itself, and the doctor names it. */
function decodedOrNull(batch: Uint8Array, resourceId: number | null): Line[] | null {
  try {
    return decodeBatch(batch, resourceId);
  } catch (error) {
    if (!isDamage(error)) throw error;
    return null;
  }
}

/** Lines of a segment are of one such period: a search of some hours passes over all others. */
const period = day;

/** Lines in order, cut where a period ends and where there are too many. */
function inPeriods(lines: readonly ShapedLine[], most: number): ShapedLine[][] {
  const parts: ShapedLine[][] = [];
  let of = NaN;
  for (const line of lines) {
    const own = Math.floor(line.at / period);
    const last = parts.at(-1);
    if (last === undefined || own !== of || last.length >= most) parts.push([line]);
    else last.push(line);
    of = own;
  }
  return parts;
}
