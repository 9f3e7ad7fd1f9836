import { monitorEventLoopDelay } from 'node:perf_hooks';

/** Longest time without a commit, and without progress of the engine, of a process that is well, ms of real time. */
const [longestQuiet, longestPause] = [45_000, 90_000];
/** An event loop that is blocked this long answers nobody in time, ms. */
const longestHold = 10_000;

/** How a process is, from what it did last: asking it never waits for the database. */
export interface HealthReport {
  readonly ok: boolean;
  /** What is wrong, one sentence each. */
  readonly faults: readonly string[];
  /** Seconds since the last commit that the database confirmed. */
  readonly sinceCommit: number;
  /** Seconds since the engine last evaluated an alarm, or looked and found nothing due. */
  readonly sinceProgress: number;
  /** The longest time that the event loop was blocked in the last half minute, ms. */
  readonly longestHold: number;
}

/**
 * Remembers when the process last did its work.
 *
 * @param hasEngine whether an engine works in this process
 * @param now real time that never jumps, ms
 * @example const health = new Health(); health.committed(); health.report().ok // true
 */
export class Health {
  readonly #now: () => number;
  readonly #hasEngine: boolean;
  readonly #delay = monitorEventLoopDelay({ resolution: 50 });
  #committedAt: number;
  #progressAt: number;
  #blocked = 0;
  #resetAt: number;

  constructor(hasEngine = true, now: () => number = () => performance.now()) {
    this.#hasEngine = hasEngine;
    this.#now = now;
    this.#committedAt = this.#progressAt = this.#resetAt = now();
    this.#delay.enable();
  }

  committed(): void {
    this.#committedAt = this.#now();
  }

  progressed(): void {
    this.#progressAt = this.#now();
  }

  report(): HealthReport {
    const now = this.#now();
    const sinceCommit = now - this.#committedAt;
    const sinceProgress = now - this.#progressAt;
    const hold = this.#longestHold(now);
    const faults = [
      ...(sinceCommit > longestQuiet ? [`The database has confirmed nothing for ${seconds(sinceCommit)} s.`] : []),
      ...(this.#hasEngine && sinceProgress > longestPause
        ? [`The engine has got no further for ${seconds(sinceProgress)} s.`]
        : []),
      ...(hold > longestHold ? [`The event loop was blocked for ${seconds(hold)} s.`] : [])
    ];
    return {
      ok: faults.length === 0,
      faults,
      sinceCommit: seconds(sinceCommit),
      sinceProgress: seconds(sinceProgress),
      longestHold: Math.round(hold)
    };
  }

  close(): void {
    this.#delay.disable();
  }

  #longestHold(now: number): number {
    const blocked = this.#delay.max / 1e6;
    const longest = Math.max(blocked, this.#blocked);
    if (now - this.#resetAt > 30_000) {
      this.#blocked = blocked;
      this.#resetAt = now;
      this.#delay.reset();
    }
    return longest;
  }
}

const seconds = (ms: number): number => Math.round(ms / 1000);
