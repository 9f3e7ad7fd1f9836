import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { ShownProgress } from '$lib/core/logs';

/** What a search has found so far, over which range and by which bars. */
export interface Found extends ShownProgress {
  readonly from: Instant;
  readonly to: Instant;
  readonly step: number;
}

/** A search of a page: what it has found so far, and what went wrong. */
export class LogFinder {
  found = $state.raw<Found | null>(null);
  isRunning = $state(false);
  /** A search that cannot be read. */
  refused = $state.raw<Problem | null>(null);
  /** The server could not be reached, or could not search. */
  hasFailed = $state(false);
  #source: EventSource | null = null;

  /** Searches anew; what was found before stays until there is something. @param query of the address of the search */
  start(query: string): void {
    this.stop();
    this.isRunning = true;
    this.refused = null;
    this.hasFailed = false;
    const source = (this.#source = new EventSource(`/logs/search?${query}`));
    source.addEventListener('progress', ({ data }: MessageEvent<string>) => {
      this.found = JSON.parse(data) as Found; // as /logs/search writes it
    });
    source.addEventListener('refused', ({ data }: MessageEvent<string>) => {
      this.refused = JSON.parse(data) as Problem;
      this.found = null; // what was found before answers another question
      this.stop();
    });
    source.addEventListener('failed', () => this.#fail());
    source.addEventListener('done', () => this.stop());
    source.addEventListener('error', () => this.#fail());
  }

  stop(): void {
    this.#source?.close();
    this.#source = null;
    this.isRunning = false;
  }

  #fail(): void {
    this.hasFailed = true;
    this.stop();
  }
}
