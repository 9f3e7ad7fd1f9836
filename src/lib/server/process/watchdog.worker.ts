// Watches the process from a thread of its own, which runs on when the event loop does not.
import { writeSync } from 'node:fs';
import { workerData } from 'node:worker_threads';
import { places, sharedTime, type WatchdogLimits } from './watchdog';

const { memory, limits } = workerData as { memory: SharedArrayBuffer; limits: WatchdogLimits };
const times = new BigInt64Array(memory);
const every = Math.max(50, Math.min(1000, Math.min(limits.loop, limits.database, limits.closing) / 4));

const words: Readonly<Record<keyof WatchdogLimits, string>> = {
  loop: 'The web process did not come round',
  database: 'The database confirmed nothing. Is its disk full or gone? It did not answer',
  closing: 'Closing did not end'
};

let lookedAt = sharedTime();
setInterval(() => {
  const now = sharedTime();
  // The whole process, or the machine, was stopped: nobody could do anything meanwhile.
  const wasStopped = now - lookedAt > 5 * every + 1000;
  lookedAt = now;
  if (wasStopped) {
    for (const place of Object.values(places)) if (Atomics.load(times, place) !== 0n) Atomics.store(times, place, now);
    return;
  }
  for (const [name, place] of Object.entries(places) as [keyof WatchdogLimits, number][]) {
    const at = Atomics.load(times, place);
    const since = Number(now - at);
    if (at === 0n || since <= limits[name]) continue;
    writeSync(
      2,
      `Bussola cannot go on.\n${words[name]} for ${Math.round(since / 1000)} s, so the process was ended.\nStart it again: what it acknowledged is there.\n`
    );
    process.kill(process.pid, 'SIGKILL');
  }
}, every);
