// How long it takes from a reading that is stored to the message about it: node --import tsx tests/soak/latency.ts [--messages 50]. It says times, and asserts none: they depend on the machine.
import { parseArgs } from 'node:util';
import { Changes } from '../../src/lib/server/base/changes';
import { rule, threshold } from '../support/alarm';
import { startApp } from '../support/app';
import { machineNamed, processorAlarm, routeTo, stressMachine, type House } from '../support/bussola';
import { until } from '../support/until';

const machines = ['booking-web-1', 'booking-web-2', 'booking-web-3', 'gate-api-1', 'gate-api-2'];
const { values } = parseArgs({ options: { messages: { type: 'string', default: '50' } } });
const wanted = Number(values.messages);

const app = await startApp({ accounts: true });
try {
  const { standIns, clock, db } = app;
  const house = { bussola: { db, changes: new Changes() }, standIns, clock } as unknown as House;
  await app.live(3);
  for (const machine of machines) {
    const route = await routeTo(house, `${machine}@latency.test`);
    await processorAlarm(house, machine, {
      ...{ name: `Latency of ${machine}`, route },
      rule: rule(1, 1, { levels: [threshold('above', 80)] })
    });
  }
  const taken: number[] = [];
  /** When the newest readings were stored: whatever arrives until the next are is about these, or about those before. */
  let stored = performance.now();
  let seen = 0;
  const mails = () => standIns.mailbox.mails.filter(({ to }) => to.some((one) => one.endsWith('@latency.test')));
  const watching = setInterval(() => {
    for (const count = mails().length; seen < count; seen++) taken.push(performance.now() - stored);
  }, 5);
  // Readings are stored in the transaction that notes the pull.
  let pulledAt = 0;
  let isLooking = false;
  const pulls = setInterval(() => {
    if (isLooking) return;
    isLooking = true;
    void db
      .rows<{ at: number }>(
        `select max(last_pull_at) as at from collections join accounts on accounts.id = account_id where name = 'corallo-prod' and service = 'machines'`
      )
      .then(([row]) => {
        if ((row?.at ?? 0) > pulledAt) [pulledAt, stored] = [row?.at ?? 0, performance.now()];
      })
      .finally(() => (isLooking = false));
  }, 10);
  let isRaised = false;
  while (taken.length < wanted) {
    isRaised = !isRaised;
    for (const machine of machines) {
      standIns.levante.relieve(machineNamed(machine).id, clock.now());
      stressMachine(house, machine, isRaised ? 95 : 20, 600);
    }
    const before = taken.length;
    await until(
      'messages about all of them',
      async () => {
        await app.live(1);
        // Whatever is to come of this minute does before the next begins.
        await new Promise((done) => setTimeout(done, 6000));
        return taken.length >= before + machines.length;
      },
      120_000
    );
  }
  clearInterval(watching);
  clearInterval(pulls);
  const sorted = taken.toSorted((a, b) => a - b);
  const at = (part: number): number => Math.round(sorted[Math.ceil(part * sorted.length) - 1] ?? NaN);
  console.log(JSON.stringify({ messages: sorted.length, medianMs: at(0.5), p95Ms: at(0.95), longestMs: at(1) }));
} finally {
  await app.stop();
}
