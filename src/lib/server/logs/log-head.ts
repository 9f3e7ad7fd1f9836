import { rawBytes, Shapes, type Line } from '$lib/core/logs';
import type { Instant } from '$lib/core/time';
import type { StoredShape } from './segments';

/** A line with its shape in its stream. */
export type ShapedLine = Line & { readonly shape: number };

interface Batch {
  readonly id: number;
  readonly receivedAt: Instant;
  readonly lines: number;
  /** About, see `rawBytes`. */
  readonly bytes: number;
}

/** What is known of a shape besides its words. */
interface Seen {
  firstAt: Instant;
  lastAt: Instant;
}

/** The lines of one stream that are not sealed yet, in the order in which they arrived, and its shapes. */
export class StreamHead {
  readonly #shapes: Shapes;
  readonly #seen = new Map<number, Seen>();
  #batches: Batch[] = [];
  #lines: ShapedLine[] = [];
  #inOrder: ShapedLine[] | null = null;
  #damaged: number[] = [];
  #bytes = 0;

  /** @param known the shapes of lines that are sealed */
  constructor(known: readonly StoredShape[]) {
    this.#shapes = new Shapes({}, known);
    for (const { id, firstAt, lastAt } of known) this.#seen.set(id, { firstAt, lastAt });
  }

  /** @returns them with their shapes */
  take(id: number, receivedAt: Instant, lines: readonly Line[]): readonly ShapedLine[] {
    const first = this.#lines.length;
    let bytes = 0;
    for (const line of lines) {
      bytes += rawBytes(line);
      const { id: shape } = this.#shapes.add(line.text);
      this.#lines.push({ ...line, shape });
      const seen = this.#seen.get(shape);
      if (seen === undefined) this.#seen.set(shape, { firstAt: line.at, lastAt: line.at });
      else {
        if (line.at < seen.firstAt) seen.firstAt = line.at;
        if (line.at > seen.lastAt) seen.lastAt = line.at;
      }
    }
    this.#batches.push({ id, receivedAt, lines: lines.length, bytes });
    this.#bytes += bytes;
    this.#inOrder = null;
    return this.#lines.slice(first);
  }

  /** Knows of a batch that is damaged: it stays in the journal. */
  passOver(id: number): void {
    this.#damaged.push(id);
  }

  get damaged(): readonly number[] {
    return this.#damaged;
  }

  /** How much it is, about. */
  get bytes(): number {
    return this.#bytes;
  }

  get length(): number {
    return this.#lines.length;
  }

  /** When the oldest of it arrived; null when there is nothing. */
  get waitsSince(): Instant | null {
    return this.#batches[0]?.receivedAt ?? null;
  }

  /** The last batch in it; 0 for none. */
  get lastId(): number {
    return this.#batches.at(-1)?.id ?? 0;
  }

  /** Its lines in the order of their times; those of the same time as they arrived. */
  get inOrder(): readonly ShapedLine[] {
    return (this.#inOrder ??= this.#lines.toSorted((a, b) => a.at - b.at || a.nanos - b.nanos));
  }

  /** Lets go of what is sealed: whole batches up to one. */
  forget(upTo: number): void {
    const gone = this.#batches.filter(({ id }) => id <= upTo);
    if (gone.length === 0) return;
    this.#batches = this.#batches.slice(gone.length);
    this.#lines = this.#lines.slice(gone.reduce((sum, { lines }) => sum + lines, 0));
    this.#bytes -= gone.reduce((sum, { bytes }) => sum + bytes, 0);
    this.#inOrder = null;
  }

  /** A shape of its stream, sealed lines of it included, and since when the stream is known; null for one that there is not. */
  shape(
    id: number
  ): (Pick<StoredShape, 'words' | 'count' | 'firstAt' | 'lastAt'> & { readonly streamSince: Instant }) | null {
    const shape = this.#shapes.get(id);
    const seen = this.#seen.get(id);
    if (shape === null || seen === undefined) return null;
    let streamSince = seen.firstAt;
    for (const { firstAt } of this.#seen.values()) if (firstAt < streamSince) streamSince = firstAt;
    return { ...shape, ...seen, streamSince };
  }

  shapes(streamId: number): StoredShape[] {
    return this.#shapes.all.map((shape) => {
      const { firstAt, lastAt } = this.#seen.get(shape.id) ?? { firstAt: 0 as Instant, lastAt: 0 as Instant };
      return { ...shape, streamId, firstAt, lastAt };
    });
  }
}
