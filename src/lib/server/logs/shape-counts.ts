import { mostAlike, shapeText, sinceOf, type FoundShape, type SegmentHead, type SegmentSummary } from '$lib/core/logs';
import type { StreamHead } from './log-head';

/** What is known of a shape of a stream; null for one that there is not. */
export type ShapeOf = (streamId: number, shape: number) => ReturnType<StreamHead['shape']>;

/** Since when the shapes of a stream are there, each looked up once. */
export function shapesSince(
  shapeOf: (shape: number) => ReturnType<StreamHead['shape']>
): (shape: number) => number | undefined {
  const known = new Map<number, number | undefined>();
  return (shape) => {
    if (!known.has(shape)) {
      const found = shapeOf(shape);
      known.set(shape, found === null ? undefined : sinceOf(found));
    }
    return known.get(shape);
  };
}

/** How many of the lines that were found are of each shape. */
export class ShapeCounts {
  readonly #counts = new Map<number, Map<number, number>>();
  #size = 0;

  add(streamId: number, shape: number, lines: number): void {
    if (lines === 0) return;
    let ofStream = this.#counts.get(streamId);
    if (ofStream === undefined) this.#counts.set(streamId, (ofStream = new Map<number, number>()));
    const known = ofStream.get(shape);
    if (known === undefined) this.#size++;
    ofStream.set(shape, (known ?? 0) + lines);
  }

  /** Every line of a segment. */
  addWhole(streamId: number, { groups }: SegmentSummary): void {
    for (const { shape, several, lines } of groups)
      for (const [one, count] of shape === null ? several : [[shape, lines] as const]) this.add(streamId, one, count);
  }

  /** Lines of a segment, in order. */
  addLines(streamId: number, summary: SegmentSummary, head: SegmentHead, lines: readonly number[]): void {
    if (lines.length === summary.lines) return this.addWhole(streamId, summary);
    const { groups } = summary;
    const { group: groupOf, alone } = head;
    const byGroup = new Uint32Array(groups.length);
    for (const line of lines) {
      const group = groupOf[line] ?? 0;
      byGroup[group] = (byGroup[group] ?? 0) + 1;
    }
    for (const [index, { shape }] of groups.entries())
      if (shape !== null) this.add(streamId, shape, byGroup[index] ?? 0);
    const mixed = groups.findIndex(({ shape }) => shape === null);
    if (mixed === -1 || byGroup[mixed] === 0) return;
    let [rank, next] = [0, 0];
    for (let line = 0; next < lines.length; line++) {
      const isWanted = lines[next] === line;
      if (isWanted) next++;
      if (groupOf[line] !== mixed) continue;
      if (isWanted) this.add(streamId, alone[rank] ?? 0, 1);
      rank++;
    }
  }

  /** How many different ones there are. */
  get size(): number {
    return this.#size;
  }

  /** Those with the most lines, the most first. */
  most(shapeOf: ShapeOf): FoundShape[] {
    return [...this.#counts]
      .flatMap(([streamId, shapes]) => [...shapes].map(([shape, count]) => ({ streamId, shape, count })))
      .sort((a, b) => b.count - a.count || a.streamId - b.streamId || a.shape - b.shape)
      .slice(0, mostAlike)
      .flatMap(({ streamId, shape, count }) => {
        const known = shapeOf(streamId, shape);
        if (known === null) return [];
        const { words, count: all, firstAt, lastAt, streamSince } = known;
        return [
          {
            ...{ streamId, shape, count, firstAt, lastAt, streamSince },
            text: shapeText(words),
            all: Math.max(all, count)
          }
        ];
      });
  }
}
