import { readFileSync } from 'node:fs';
import { instant, type Clock } from '$lib/core/time';

/** The machine's clock: the one place that reads it. */
// eslint-disable-next-line no-restricted-syntax -- the injected clock itself
export const systemClock: Clock = { now: () => instant(Date.now()) };

/**
 * A clock that stands until somebody writes another moment into its file, in milliseconds since the epoch. Tests and stand-ins share one, so
 * that hours pass in an instant.
 *
 * @example fileClock('/tmp/clock').now() // 1777881600000
 */
export const fileClock = (file: string): Clock => ({ now: () => instant(Number(readFileSync(file, 'utf8'))) });
