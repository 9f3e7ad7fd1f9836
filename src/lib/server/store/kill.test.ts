import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import { withFolder } from '../../../../tests/support/database';

/** How often it is killed: each start takes seconds. A campaign sets BUSSOLA_KILLS. */
const rounds = Number(process.env['BUSSOLA_KILLS'] ?? 8);

describe('kill -9 during intake, sealing and rolling up', () => {
  const fixture = withFolder();

  it('leaves every acknowledged batch in place and a store in which the doctor finds nothing wrong, each time', async () => {
    let acknowledged = -1;
    for (let round = 0; round <= rounds; round++) {
      const child = spawn(
        process.execPath,
        ['--import', 'tsx', 'tests/support/appender.ts', join(fixture.path, 'data')],
        {
          stdio: ['ignore', 'pipe', 'inherit']
        }
      );
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
  }).timeout(300_000);
});
