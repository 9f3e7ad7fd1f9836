import { spawn } from 'node:child_process';
import { once } from 'node:events';
import type { Measurement } from './measurement';

/** Goal of the resident memory with ten thousand live series, MB. */
const goal = 400;

/** Megabytes resident with ten thousand live series: a whole Bussola with its embedded database in a process of its own, after two hours of minutes. */
export async function processMemory(): Promise<Measurement[]> {
  const child = spawn(process.execPath, ['--expose-gc', '--import', 'tsx', 'bench/memory-child.ts'], {
    stdio: ['ignore', 'pipe', 'inherit']
  });
  let said = '';
  child.stdout.on('data', (part: Buffer) => (said += part.toString()));
  await once(child, 'exit');
  const ours = Number(said.trim().split('\n').at(-1));
  if (!(ours > 0)) throw new Error(`process.memory: the process said "${said}"`);
  return [
    {
      name: 'process.memory',
      unit: 'MB resident',
      better: 'lower',
      ours,
      theirs: goal,
      alternative: `the goal of ${goal} MB`,
      note: '10,000 series, 120 minutes of one point each, sealed every 30 minutes; web server not counted, sources run by tsx'
    }
  ];
}
