import type { LogProgress } from '$lib/core/logs';
import type { LogSearch } from './log-search';

/** Searches that are under way, by their tickets. */
export class RunningSearches {
  readonly #most: number;
  readonly #searches = new Map<number, LogSearch>();
  #next = 1;

  /** @param most at once */
  constructor(most: number) {
    this.#most = most;
  }

  /** @returns the ticket of a search that begins; null when too many are under way */
  begin(make: () => LogSearch): number | null {
    if (this.#searches.size >= this.#most) return null;
    const ticket = this.#next++;
    this.#searches.set(ticket, make());
    return ticket;
  }

  /** How far a search has come after another piece of work; null for one that is over or was cancelled. */
  async goOn(ticket: number): Promise<LogProgress | null> {
    const progress = (await this.#searches.get(ticket)?.goOn()) ?? null;
    if (progress?.isDone) this.#searches.delete(ticket);
    return progress;
  }

  cancel(ticket: number): void {
    this.#searches.delete(ticket);
  }
}
