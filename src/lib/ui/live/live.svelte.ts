import { getContext, setContext } from 'svelte';
import { invalidate } from '$app/navigation';
import { navigating } from '$app/state';
import type { Instant } from '$lib/core/time';

const liveEvents = [
  'samples',
  'account',
  'alarm',
  'outbox',
  'board',
  'mark',
  'routing',
  'reachability',
  'costs',
  'objectives',
  'responses',
  'summaries',
  'backups',
  'followers'
] as const;
export type LiveEvent = (typeof liveEvents)[number];

/** What a browser knows of the server at this moment: its time, whether it is reached, and what changed. */
export class Live {
  /** The server's time, moved by its ticks: the browser's own clock is never asked. */
  now = $state<Instant>(0 as Instant);
  connected = $state(true);
  readonly #listeners = new Map<LiveEvent, Set<() => void>>();
  /** Keys of what is to be read again. */
  readonly #wanted = new Set<string>();
  #isReading = false;

  /** The count of changes that what is shown has seen. */
  #version: number;

  /** @param version the count of changes when the page's data were read */
  constructor(now: Instant, version: number) {
    this.now = now;
    this.#version = version;
  }

  get version(): number {
    return this.#version;
  }

  /** Listens until the returned function is called. Opened in the browser only. */
  open(): () => void {
    const source = new EventSource('/live');
    // A network that is gone without a word closes nothing: then ticks are missing.
    let ticked = performance.now();
    const watching = setInterval(() => {
      if (performance.now() - ticked > silenceMs) this.connected = false;
    }, silenceMs / 4);
    source.addEventListener('tick', ({ data }: MessageEvent<string>) => {
      ticked = performance.now();
      const { now, version } = JSON.parse(data) as { now: Instant; version: number };
      this.now = now;
      // Something changed between the reading of the page and the first tick, or while the connection was lost.
      if (version !== this.#version || !this.connected) for (const name of liveEvents) this.#tell(name);
      this.#version = version;
      this.connected = true;
    });
    source.addEventListener('error', () => (this.connected = false));
    // Something that this person may not see: only counted.
    source.addEventListener('other', ({ data }: MessageEvent<string>) => {
      const { version } = JSON.parse(data) as { version: number };
      const missed = version !== this.#version + 1;
      this.#version = version;
      if (missed) for (const name of liveEvents) this.#tell(name);
    });
    for (const name of liveEvents)
      source.addEventListener(name, ({ data }: MessageEvent<string>) => {
        const { version } = JSON.parse(data) as { version: number };
        const missed = version !== this.#version + 1;
        this.#version = version;
        for (const told of missed ? liveEvents : [name]) this.#tell(told);
      });
    return () => {
      clearInterval(watching);
      source.close();
    };
  }

  /** Calls a listener whenever one of these happens. @returns what ends it */
  on(events: readonly LiveEvent[], listener: () => void): () => void {
    for (const event of events) {
      const listeners = this.#listeners.get(event) ?? new Set();
      listeners.add(listener);
      this.#listeners.set(event, listeners);
    }
    return () => {
      for (const event of events) this.#listeners.get(event)?.delete(listener);
    };
  }

  /**
   * Reads what depends on a key again, soon. One reading ends before the next begins, for the whole page: a newer one would replace it, and where things happen faster than a page is read, none would ever be shown.
   * Never while the person is on the way to another page, since reading again would end that.
   */
  refresh(dependency: string): void {
    this.#wanted.add(dependency);
    if (!this.#isReading) void this.#readWanted();
  }

  async #readWanted(): Promise<void> {
    this.#isReading = true;
    while (this.#wanted.size > 0) {
      if (navigating.to === null) {
        const wanted = new Set(this.#wanted);
        this.#wanted.clear();
        // Where the server is not reached, everything is read again once it is.
        await invalidate(({ href }) => wanted.has(href)).catch(() => (this.connected = false));
      }
      await new Promise((go) => setTimeout(go, pauseMs));
    }
    this.#isReading = false;
  }

  #tell(event: LiveEvent): void {
    for (const listener of this.#listeners.get(event) ?? []) listener();
  }
}

/** Without a tick for so long, though one comes every second, the connection counts as lost. */
const silenceMs = 8_000;

/** Between two readings of a page there is at least so long, however much happens. */
const pauseMs = 400;

/**
 * Reads what depends on a key again whenever one of some things happens, for as long as a component lives. Many changes at once are read once.
 *
 * @example useRefresh(live, ['account'], 'bussola:accounts')
 */
export function useRefresh(live: Live, events: readonly LiveEvent[], dependency: string): void {
  $effect(() => live.on(events, () => live.refresh(dependency)));
}

const key = Symbol('live');
export const provideLive = (live: Live): Live => setContext(key, live);
export const useLive = (): Live => getContext<Live>(key);
