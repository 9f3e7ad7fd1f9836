import type { Bussola } from './start';

let running: Bussola | null = null;

/** Sets what {@link bussola} gives; null when it has ended. */
export const setRunning = (started: Bussola | null): void => void (running = started);

/**
 * The running application, for routes.
 *
 * @throws before it has started
 */
export function bussola(): Bussola {
  if (running === null) throw new Error('bussola: the application has not started');
  return running;
}
