// A process that is watched and then hangs as its argument says. Run by a test.
import { Health } from '../../src/lib/server/base/health';
import { startWatchdog } from '../../src/lib/server/process/watchdog';
import type { Database } from '../../src/lib/server/db/pool';

const [, , how] = process.argv;
const never = new Promise<never>(() => undefined);
const db: Database = {
  rows: () => (how === 'database' ? never : Promise.resolve([])),
  transaction: () => never,
  close: () => never
};
const watchdog = startWatchdog(db, new Health(), { loop: 1_500, database: 1_500, closing: 1_500 });
setInterval(() => undefined, 1_000);
if (how === 'closing') watchdog.closing();
// Long enough for the thread to have started.
setTimeout(() => {
  if (how === 'loop') for (;;);
  if (how === 'nothing') void watchdog.stop().then(() => process.exit(0));
}, 4_000);
