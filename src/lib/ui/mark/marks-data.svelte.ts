import { callApi, answerOrNull } from '../api';
import type { Mark } from '$lib/core/mark';
import { overlap, textFromInstant, type Instant, type Range } from '$lib/core/time';

/** The marks of what a page shows. */
export class MarksData {
  marks = $state.raw<readonly Mark[]>([]);
  #asking: AbortController | null = null;
  #asked = '';

  /**
   * Reads the marks of a range, unless they are known.
   *
   * @param board the board they are shown on, when it is a stored one
   * @param services whose marks and events are wanted
   * @param news whether marks were put or taken away meanwhile
   */
  async read(range: Range, board: number | null, services: readonly string[], news: boolean): Promise<void> {
    // Whole minutes, so that a range that moves with the clock does not ask every second.
    const whole = (at: number, up: number) => (Math.floor(at / 60_000) + up) * 60_000;
    const query = {
      from: textFromInstant(whole(range.from, 0) as Range['from']),
      to: textFromInstant(whole(range.to, 1) as Range['to']),
      services: services.join(','),
      ...(board === null ? {} : { board: String(board) })
    };
    const key = JSON.stringify(query);
    if (key === this.#asked && !news) return;
    this.#asked = key;
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    const reply = await callApi<{ marks: Mark[] }>('GET', '/marks', { query, signal: asking.signal });
    this.marks = answerOrNull(reply)?.marks ?? this.marks; // not reached: the helm says so
  }

  /** The marks that lie in a range, that of its very end included. */
  within({ from, to }: Range): Mark[] {
    const upTo = { from, to: (to + 1) as Instant };
    return this.marks.filter((mark) => overlap(upTo, { from: mark.from, to: mark.to ?? ((mark.from + 1) as Instant) }));
  }
}
