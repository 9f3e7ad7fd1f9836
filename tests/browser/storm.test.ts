import { expect } from 'chai';
import { Changes } from '../../src/lib/server/base/changes';
import { minute } from '../../src/lib/core/time';
import { rule, threshold } from '../support/alarm';
import { processorAlarm, routeTo, type House } from '../support/bussola';
import { counts } from '../support/count';
import { storeStorm } from '../support/incidents';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

/** Says how long pages took while the storm was on: times depend on the machine, so that none is asserted. */
const saysTimes = process.env['BUSSOLA_TIMES'] !== undefined;

describe('a storm of 2,000, as whoever is woken sees it', () => {
  const visit = withVisit({ minutes: 3 });
  const many = 2000;

  it('Watch and the list answer throughout, the index counts all, and one message says so', async () => {
    const { page, app } = visit;
    const { db, clock, standIns } = app;
    const house = { bussola: { db, changes: new Changes() }, standIns, clock } as unknown as House;
    const group = { by: 'alarm', wait: minute, atMostEvery: 10 * minute } as const;
    const route = await routeTo(house, 'storm@example.test', { group });
    const never = rule(1, 1, { levels: [threshold('above', 1e9)] });
    const { id } = await processorAlarm(house, 'gate-api-1', { name: 'Storm', route, rule: never });
    // Nobody judges it: what is raised here stays so.
    await db.rows('delete from alarm_work where alarm_id = $1', [id]);
    /** How long Watch and the list take, ms. */
    const pageTimes = async (): Promise<number[]> => {
      const times: number[] = [];
      for (const path of ['/', '/incidents']) {
        const begun = performance.now();
        const answer = await page.request.get(app.origin + path, { headers: { accept: 'text/html' } });
        times.push(performance.now() - begun);
        expect(answer.status()).to.equal(200);
      }
      return times;
    };
    const timesOf = async (often: number): Promise<number[]> => {
      const times: number[] = [];
      for (let index = 0; index < often; index++) times.push(...(await pageTimes()));
      return times;
    };
    const before = await timesOf(saysTimes ? 25 : 1);
    const during: number[] = [];
    const now = clock.now();
    await storeStorm(db, id, many, now, ['critical', 'major', 'minor', 'warning']);
    await until(
      'all are taken into the thread',
      async () => {
        during.push(...(await pageTimes()));
        const [left] = await db.rows<{ count: number }>(
          'select count(*)::integer as count from incident_events where handled_at is null'
        );
        return left?.count === 0;
      },
      120_000
    );
    if (saysTimes) {
      const after = await timesOf(5);
      for (const [when, times] of Object.entries({ before, during, after }))
        process.stdout.write(`${when}: ${inWords(times)}\n`);
    }
    await page.goto(`${app.origin}/incidents`);
    await page.getByText(`${many} open`).first().waitFor();
    await page.getByText(`${many} that may have one cause: raised in the same minute`).waitFor();
    await counts(visit.region('Open').locator('tr'), 51); // a page of them, and why they are together
    clock.pass(1);
    const mails = await until(
      'the message',
      () => {
        const found = standIns.mailbox.mails.filter(({ to }) => to.includes('storm@example.test'));
        return found.length > 0 && found;
      },
      120_000
    );
    expect(mails.map(({ subject }) => subject.split(':')[0])).to.deep.equal([`CRITICAL ${many} raised on Storm`]);
  }).timeout(300_000);
});

function inWords(times: readonly number[]): string {
  const sorted = times.toSorted((a, b) => a - b).map(Math.round);
  return `${sorted.length} pages, median ${sorted[sorted.length >> 1]} ms, p95 ${sorted[Math.floor(sorted.length * 0.95)]} ms, longest ${sorted.at(-1)} ms`;
}
