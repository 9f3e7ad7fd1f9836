import { expect } from 'chai';
import { recommendedAlarms } from '../../src/lib/core/alarm';
import { minute } from '../../src/lib/core/time';
import { eventsOf } from '../../stand-ins/maestro/events';
import { clusters, type Cluster } from '../../stand-ins/maestro/world';
import { counts } from '../support/count';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('from a warning on a container to the line that says why it ended', () => {
  // Lines are read as in the demo, and a copy of seatmap is near its limit a few hours after it began.
  const visit = withVisit({ minutes: 2, app: { days: 1, env: { BUSSOLA_LINES_MS: '500' } } });
  const heading = (name: string) => visit.page.getByRole('heading', { level: 1, name, exact: true }).waitFor();
  let killed = { copy: '', at: 0 };

  before(async function () {
    this.timeout(180_000);
    const { clock, standIns } = visit.app;
    const cluster = clusters.find(({ id }) => id === 'harbour-cluster') as Cluster;
    const newest = eventsOf({ seed: 1, start: standIns.maestro.start, stresses: [] }, cluster, clock.now())
      .filter(({ kind }) => kind === 'restarted')
      .at(-1);
    // The newest kill of a container is in the history of events, which comes oldest first, and its line among what was read.
    killed = await until(
      'a restart and its line',
      async () => {
        const [event] = await visit.app.db.rows<{ copy: string; at: number }>(
          `select subject ->> 'copy' as copy, at from events where kind = 'restarted' and at = $1 and subject ->> 'copy' = $2`,
          [newest?.at, newest?.subject['copy']]
        );
        const feeds = await visit.app.db.rows<{ missing: number }>(
          `select history_to - history_from as missing from log_feeds join accounts on accounts.id = account_id where feed = 'harbour-cluster'`
        );
        return event && feeds.length > 0 && feeds.every(({ missing }) => missing <= 0) ? event : null;
      },
      150_000
    );
  });

  it('goes from all clusters down to a container by nodes and by workloads, and back', async () => {
    await visit.page.goto(`${visit.app.origin}/services/clusters/board`);
    await visit.page.getByRole('link', { name: 'Parts', exact: true }).click();
    await heading('3 clusters');
    await visit.page.getByRole('link', { name: 'harbour-cluster', exact: true }).click();
    await heading('harbour-cluster');
    await visit.page.locator('[data-part="harbour-n2"]').getByRole('link', { name: 'harbour-n2' }).click();
    await heading('harbour-n2');
    await counts(visit.region('Containers').locator('tr[data-container]'), 4);
    await visit.page.getByRole('navigation', { name: 'Within the cluster' }).getByText('harbour-cluster').click();
    await heading('harbour-cluster');
    await visit.page.locator('[data-part="quote"]').getByRole('link', { name: 'quote', exact: true }).click();
    await heading('quote');
    await visit.page.locator('[data-container="quote-2"]').getByRole('link').click();
    await heading('quote-2');
    const memory = await visit
      .region('Now')
      .getByRole('img', { name: /^Memory of quote-2/ })
      .getAttribute('aria-label');
    expect(memory).to.match(/^Memory of quote-2: [\d.]+ MiB in use, 256 MiB requested, limit 512 MiB$/);
    await visit.page.getByRole('heading', { name: 'Memory against request and limit' }).waitFor();
    await visit.region('Restarts').getByText('Nothing was restarted.').waitFor();
    await visit.page.goBack();
    await heading('quote');
  });

  it('is four clicks at most', async () => {
    // The alarm that is recommended for containers, with a limit that is crossed now.
    const [offer] = recommendedAlarms(
      ['workload_memory_bytes', 'workload_memory_limit_bytes'].map((name) => ({
        ...{ name, service: 'clusters', samplingMs: minute, everyMs: minute }
      })),
      'clusters'
    ).filter(({ definition }) => definition.name === 'Container near its memory limit');
    const definition = structuredClone(offer!.definition);
    definition.signal!.rows = definition.signal!.rows.map((row) =>
      'metric' in row ? { ...row, where: [{ label: 'copy', is: [killed.copy] }] } : row
    );
    definition.rule.levels = [{ severity: 'warning', condition: { kind: 'threshold', is: 'above', limit: 5 } }];
    definition.rule.window = { needs: 1, of: 1 };
    const made = await visit.page.request.post(`${visit.app.origin}/api/v1/alarms`, { data: definition });
    expect(made.status(), await made.text()).to.equal(201);
    await until(
      'raised',
      async () => {
        visit.app.clock.pass(1);
        return (await visit.app.db.rows('select 1 from incidents where closed_at is null')).length > 0 || null;
      },
      60_000
    );
    await visit.page.goto(`${visit.app.origin}/incidents`);
    let clicks = 0;
    const click = async (locator: ReturnType<typeof visit.page.locator>) => {
      await locator.click();
      clicks++;
    };
    await click(visit.page.getByRole('link', { name: /Container near its memory limit/ }).first());
    await click(visit.page.getByRole('link', { name: 'See it in its cluster' }));
    await heading(killed.copy);
    await click(visit.region('Restarts').getByRole('link', { name: 'Lines then' }).first());
    await click(visit.page.getByText(/killed process \d+ \(seatmap\)/).first());
    const line = visit.region('This line');
    await line.getByText(/killed process \d+ \(seatmap\)/).waitFor();
    await line.getByText('process.pid').waitFor();
    expect(await line.getByText(killed.copy).count()).to.be.above(0);
    expect(clicks).to.be.at.most(4);
  });

  it('says what is not there, and keeps the range', async () => {
    await visit.page.goto(`${visit.app.origin}/clusters?range=PT6H`);
    await visit.page.getByRole('link', { name: 'vessel-edge', exact: true }).click();
    await heading('vessel-edge');
    expect(visit.page.url()).to.contain('range=PT6H');
    await visit.region('Workloads').getByText('None is known.').waitFor();
    await visit.page.getByRole('link', { name: 'edge-n1', exact: true }).click();
    await visit.page.getByText('No container was heard of').waitFor();
    const [{ id } = { id: 0 }] = await visit.app.db.rows<{ id: number }>(
      `select id from resources where name = 'seatmap'`
    );
    const answer = await visit.page.request.get(`${visit.app.origin}/clusters/${id}/no-such`);
    expect(answer.status()).to.equal(404);
    expect(await answer.text()).to.contain('Nothing was heard of a container no-such of seatmap');
  });

  it('never made the browser complain', () => expect(visit.complaints).to.deep.equal([]));
});
