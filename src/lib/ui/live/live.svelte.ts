import { getContext, setContext } from 'svelte';
import { afterNavigate, beforeNavigate, invalidate } from '$app/navigation';
import type { Instant } from '$lib/core/time';

const liveEvents = ['samples', 'account', 'alarm', 'outbox', 'board', 'mark', 'routing'] as const;
export type LiveEvent = (typeof liveEvents)[number];

/** What a browser knows of the server at this moment: its time, whether it is reached, and what changed. */
export class Live {
  /** The server's time, moved by its ticks: the browser's own clock is never asked. */
  now = $state<Instant>(0 as Instant);
  connected = $state(true);
  readonly #listeners = new Map<LiveEvent, Set<() => void>>();

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

  #tell(event: LiveEvent): void {
    for (const listener of this.#listeners.get(event) ?? []) listener();
  }
}

/** Without a tick for so long, though one comes every second, the connection counts as lost. */
const silenceMs = 8_000;

/** Pages read again at most this often, however much happens. */
const pauseMs = 400;

/**
 * Reads what depends on a key again whenever one of some things happens, for as long as a component lives. Many changes at once are read once; and never while the
 * person is on the way to another page, since reading again would end that.
 *
 * @example useRefresh(live, ['account'], 'bussola:accounts')
 */
export function useRefresh(live: Live, events: readonly LiveEvent[], dependency: string): void {
  let wanted = false;
  let leaving = false;
  let timer: ReturnType<typeof setTimeout> | null = null;
  const read = () => {
    timer = null;
    if (!wanted || leaving) return;
    wanted = false;
    void invalidate(dependency);
    timer = setTimeout(read, pauseMs);
  };
  beforeNavigate(({ willUnload }) => {
    if (!willUnload) leaving = true;
  });
  afterNavigate(() => {
    leaving = false;
    if (wanted && timer === null) read();
  });
  $effect(() => {
    const end = live.on(events, () => {
      wanted = true;
      if (timer === null && !leaving) read();
    });
    return () => {
      end();
      if (timer !== null) clearTimeout(timer);
    };
  });
}

const key = Symbol('live');
export const provideLive = (live: Live): Live => setContext(key, live);
export const useLive = (): Live => getContext<Live>(key);
