import type { Instant } from '../time';

/** What an attempt spends its time on, in order: looking the name up, connecting, the TLS handshake, waiting for the answer to begin, reading it. */
export const phases = ['name', 'connect', 'secure', 'wait', 'read'] as const;
export type Phase = (typeof phases)[number];

/** What each phase is called where people read it. */
export const phaseWords: Readonly<Record<Phase, string>> = {
  name: 'name lookup',
  connect: 'connection',
  secure: 'TLS handshake',
  wait: 'wait for the answer',
  read: 'reading it'
};

/** What one attempt came to. */
export interface Attempt {
  readonly at: Instant;
  /** Why it failed, in words; null when all was as the check says. */
  readonly problem: string | null;
  /** The whole time, ms. */
  readonly took: number;
  /** Time of each phase that was reached, ms. */
  readonly phases: Readonly<Partial<Record<Phase, number>>>;
  /** The address that was connected to; empty when there was none. */
  readonly address: string;
  /** The status of an HTTP answer; null without one. */
  readonly status: number | null;
  /** When the certificate expires; null where there is none. */
  readonly certificateUntil: Instant | null;
  /** What a name server answered. */
  readonly answers: readonly string[];
}

/** How a check stands. `unknown` before its first attempt, and while the first ones fail but retries are left. */
export type CheckState = 'up' | 'down' | 'unknown';

/** What is remembered of a check between its attempts. */
export interface Standing {
  readonly state: CheckState;
  /** Since when; null while unknown. */
  readonly since: Instant | null;
  /** Attempts that failed one after the other. */
  readonly failures: number;
}

export const unknownStanding: Standing = { state: 'unknown', since: null, failures: 0 };

/**
 * How a check stands after an attempt: up at once when one succeeds, down when one and all its retries have failed. In between it stays what it was.
 *
 * ```
 * unknown ──ok──▶ up ──fails, retries left──▶ up ──fails, none left──▶ down ──ok──▶ up
 * ```
 *
 * @param retries attempts that are made again before it is down
 * @example standingAfter({ state: 'up', since, failures: 2 }, failed, 2) // { state: 'down', since: failed.at, failures: 3 }
 */
export function standingAfter(
  { state, since, failures }: Standing,
  { at, problem }: Pick<Attempt, 'at' | 'problem'>,
  retries: number
): Standing {
  const failed = problem === null ? 0 : failures + 1;
  const next: CheckState = problem === null ? 'up' : failed > retries ? 'down' : state;
  return { state: next, since: next === state ? since : at, failures: failed };
}

/** Seconds from a failed attempt to its retry. */
const retryAfter = 10;

/**
 * When the next attempt is due, s after the last: soon while retries are left, else as often as the check says.
 *
 * @example nextAfter({ state: 'up', since, failures: 1 }, { every: 300, retries: 2 }) // 10
 */
export const nextAfter = (
  { failures }: Pick<Standing, 'failures'>,
  { every, retries }: { readonly every: number; readonly retries: number }
): number => (failures > 0 && failures <= retries ? Math.min(retryAfter, every) : every);
