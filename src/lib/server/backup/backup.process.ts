// Makes a backup, or rehearses restoring one, in a process of its own: the second database that this takes goes with it.
import { Refusal } from '$lib/core/problem/problem';
import { isFullDisk } from '../base/disk';
import { carryOut, orderSchema, type Said } from './orders';

/** Progress is said so often at most, ms. */
const sayEveryMs = 250;

process.once('disconnect', () => process.exit(1)); // nobody waits for it any more
process.once('message', (message) => {
  let saidAt = -Infinity;
  void carryOut(orderSchema.parse(message), (progress) => {
    if (performance.now() - saidAt < sayEveryMs) return;
    saidAt = performance.now();
    say({ progress });
  })
    .then(
      (result) => say({ result }),
      (error: unknown) => say({ problem: problemIn(error) })
    )
    .finally(() => process.disconnect());
});

const say = (said: Said): void => void process.send?.(said);

function problemIn(error: unknown) {
  if (error instanceof Refusal) return { code: error.code, message: error.message, remedy: error.remedy };
  const why = error instanceof Error ? error.message : String(error);
  return isFullDisk(error)
    ? {
        ...{ code: 'disk-low' as const, message: 'The disk of the folder of backups is full.' },
        remedy: 'Make room there, or name a folder on another disk in BUSSOLA_BACKUPS.'
      }
    : {
        ...{ code: 'internal' as const, message: `It failed: ${why.slice(0, 300)}` },
        remedy: 'Begin it again. If it fails again, the log may say more.'
      };
}
