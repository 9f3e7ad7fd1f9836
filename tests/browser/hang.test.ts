import { expect } from 'chai';
import { once } from 'node:events';
import { launchApp, type RunningApp } from '../support/app';
import { until } from '../support/until';

describe('an embedded database that hangs', () => {
  let app: RunningApp | null = null;
  after(() => {
    app?.process.kill('SIGKILL'); // one that hangs would not end otherwise
    return app?.stop();
  });

  it('does not keep the process from ending, nor lose what was acknowledged', async () => {
    const first = (app = await launchApp({ env: { BUSSOLA_CLOSING_MS: '4000' } }));
    await first.db.rows('update health_probe set commits = 1000000 where one');
    // Its thread counts for days: nothing else is answered by it, and nothing can stop it.
    const lost = first.db
      .rows(
        'select count(*) from generate_series(1, 100000) a, generate_series(1, 100000) b, generate_series(1, 100000) c'
      )
      .catch((error: Error) => error);
    const page = () =>
      fetch(`${first.origin}/sign-in`, { signal: AbortSignal.timeout(500) }).then(
        () => 'answered',
        () => 'hangs'
      );
    await until('the database to hang', async () => (await page()) === 'hangs');
    expect((await fetch(`${first.origin}/healthz`)).status, 'the web process itself').to.equal(200);

    const gone = once(first.process, 'exit');
    first.process.kill('SIGTERM');
    expect(await gone).to.deep.equal([null, 'SIGKILL']);
    expect(first.said).to.contain('Bussola cannot go on.').and.contain('Closing did not end for');
    expect(await lost).to.be.instanceOf(Error);
    await first.stop(false);

    const second = (app = await launchApp({ data: first.data }));
    const [row] = await second.db.rows<{ commits: number }>('select commits from health_probe');
    expect(row?.commits).to.be.at.least(1_000_000);
  });
});
