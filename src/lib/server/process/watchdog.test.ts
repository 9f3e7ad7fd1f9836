import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { once } from 'node:events';

describe('the watchdog', () => {
  const words = {
    loop: 'The web process did not come round for',
    database: 'The database confirmed nothing. Is its disk full or gone? It did not answer for',
    closing: 'Closing did not end for'
  };

  async function hanging(how: string): Promise<{ end: unknown[]; said: string }> {
    const child = spawn(process.execPath, ['--import', 'tsx', 'tests/support/hanging.ts', how], {
      stdio: ['ignore', 'ignore', 'pipe']
    });
    let said = '';
    child.stderr.on('data', (part: Buffer) => (said += part.toString()));
    return { end: await once(child, 'exit'), said };
  }

  for (const [how, told] of Object.entries(words))
    it(`ends a process that hangs, with a reason: ${how}`, async () => {
      const { end, said } = await hanging(how);
      expect(end).to.deep.equal([null, 'SIGKILL']);
      expect(said).to.contain('Bussola cannot go on.').and.contain(told);
    }).timeout(90_000);

  it('leaves one alone that does its work', async () => {
    expect(await hanging('nothing')).to.deep.equal({ end: [0, null], said: '' });
  }).timeout(90_000);
});
