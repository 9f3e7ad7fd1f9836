import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createInterface } from 'node:readline';

/**
 * Starts a program again and again on the same folder and kills it (SIGKILL) in the midst of its work. It prints `has N of M, F findings` at its start and `kept K` for each thing that was acknowledged: what was
 * acknowledged is there each time, without a gap, nothing beyond it, and nothing is found to be wrong.
 *
 * @param program below `tests/support`
 */
export async function killOnAndOn(program: string, folder: string, rounds: number): Promise<void> {
  let acknowledged = -1;
  for (let round = 0; round <= rounds; round++) {
    const child = spawn(process.execPath, ['--import', 'tsx', `tests/support/${program}`, folder], {
      stdio: ['ignore', 'pipe', 'inherit']
    });
    const gone = once(child, 'exit');
    let wanted = acknowledged + 5;
    for await (const line of createInterface({ input: child.stdout })) {
      const [word, number, , found, findings] = line.split(/,? /);
      if (word === 'has') {
        expect(Number(number), `round ${round}`).to.be.at.least(acknowledged + 1);
        expect(Number(found), 'nothing beyond the first gap').to.equal(Number(number));
        expect(findings, `round ${round}`).to.equal('0');
        wanted = Number(number) + 3 + ((round * 7) % 23);
        if (round === rounds) child.kill('SIGKILL');
      } else if (word === 'kept') {
        acknowledged = Number(number);
        if (acknowledged >= wanted) child.kill('SIGKILL');
      }
    }
    await gone;
  }
  expect(acknowledged).to.be.above(rounds * 6);
}
