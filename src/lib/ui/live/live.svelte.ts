import { getContext, setContext } from 'svelte';
import type { Instant } from '$lib/core/time';

export type LiveEvent = 'samples' | 'account' | 'alarm' | 'outbox';

/** What a browser knows of the server at this moment: its time, whether it is reached, and what changed. */
export class Live {
  /** The server's time, moved by its ticks: the browser's own clock is never asked. */
  now = $state<Instant>(0 as Instant);
  connected = $state(true);
  readonly #listeners = new Map<LiveEvent | 'reconnected', Set<() => void>>();

  constructor(now: Instant) {
    this.now = now;
  }

  /** Listens until the returned function is called. Opened in the browser only. */
  open(): () => void {
    const source = new EventSource('/live');
    source.addEventListener('tick', ({ data }: MessageEvent<string>) => {
      this.now = (JSON.parse(data) as { now: Instant }).now;
      if (!this.connected) this.#tell('reconnected');
      this.connected = true;
    });
    source.addEventListener('error', () => (this.connected = false));
    for (const name of ['samples', 'account', 'alarm', 'outbox'] as const) source.addEventListener(name, () => this.#tell(name));
    return () => source.close();
  }

  /** Calls a listener whenever one of these happens. @returns what ends it */
  on(events: readonly (LiveEvent | 'reconnected')[], listener: () => void): () => void {
    for (const event of events) {
      const listeners = this.#listeners.get(event) ?? new Set();
      listeners.add(listener);
      this.#listeners.set(event, listeners);
    }
    return () => {
      for (const event of events) this.#listeners.get(event)?.delete(listener);
    };
  }

  #tell(event: LiveEvent | 'reconnected'): void {
    for (const listener of this.#listeners.get(event) ?? []) listener();
  }
}

const key = Symbol('live');
export const provideLive = (live: Live): Live => setContext(key, live);
export const useLive = (): Live => getContext<Live>(key);
