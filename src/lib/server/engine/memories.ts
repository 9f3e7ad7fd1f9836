import { LRUCache } from 'lru-cache';
import { decodeMemory, type RememberedSeries } from '$lib/core/alarm';

type Series = ReadonlyMap<string, RememberedSeries>;

/** Bytes of what is known as it was read, over all alarms; as objects it takes ten times as much. */
const mostBytes = 1_000_000;

/**
 * What alarms remember, as it was last read or written here: as long as no other engine has written since, nothing is read anew. Whether one has, the bytes say.
 */
export class Memories {
  readonly #known = new LRUCache<number, { readonly bytes: Uint8Array; readonly series: Series }>({
    maxSize: mostBytes,
    sizeCalculation: ({ bytes }) => Math.max(1, bytes.length)
  });

  /** @throws MemoryDamaged when the bytes cannot be read */
  read(alarmId: number, bytes: Uint8Array): Series {
    const known = this.#known.get(alarmId);
    if (known && Buffer.compare(known.bytes, bytes) === 0) return known.series;
    const series = decodeMemory(bytes);
    this.note(alarmId, bytes, series);
    return series;
  }

  /** Notes what was written, with the bytes that it was written as. */
  note(alarmId: number, bytes: Uint8Array, series: Series): void {
    this.#known.set(alarmId, { bytes, series });
  }
}
