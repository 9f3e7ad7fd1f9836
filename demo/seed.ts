// Writes the workspace of Corallo Lines into a running Bussola's database, once: people, accounts, channels, an alarm.
import { parseArgs } from 'node:util';
import type { AlarmDefinition } from '../src/lib/core/alarm';
import { usualPlan } from '../src/lib/core/intake';
import { plainSignal } from '../src/lib/core/signal';
import { insertAlarm } from '../src/lib/server/alarms/alarms';
import { fileClock, systemClock } from '../src/lib/server/base/clock';
import { openPool, type Queryable } from '../src/lib/server/db/pool';
import { insertAccount, replaceEndpoint } from '../src/lib/server/inventory/accounts';
import { historyStart } from '../src/lib/server/intake/pull/pull';
import { confirmChannel, insertEmailChannel } from '../src/lib/server/notify/channels';
import { hashPassword } from '../src/lib/server/people/passwords';
import { countPeople, insertPerson } from '../src/lib/server/people/people';
import { secretBox } from '../src/lib/server/base/secrets';
import { savePlan } from '../src/lib/server/intake/plan/plans';
import { accounts, channels, people, password, plans } from './corallo';

const { values } = parseArgs({
  options: {
    data: { type: 'string' },
    /** Address of the stand-ins; each provider lies below it. */
    'stand-ins': { type: 'string' },
    days: { type: 'string', default: '14' },
    /** Only people and channels, for tests that connect the account themselves. */
    bare: { type: 'boolean', default: false },
    'clock-file': { type: 'string' }
  }
});
const { data, 'stand-ins': standIns } = values;
if (data === undefined || standIns === undefined) throw new Error('seed: give --data and --stand-ins');
const secrets = secretBox(data, process.env['BUSSOLA_KEY']);

const clock = values['clock-file'] === undefined ? systemClock : fileClock(values['clock-file']);
const db = openPool(
  process.env['DATABASE_URL']
    ? { connectionString: process.env['DATABASE_URL'] }
    : { host: data, user: 'postgres', database: 'postgres' },
  1
);
const now = clock.now();

try {
  if ((await countPeople(db)) === 0) await db.transaction(seed);
  // Started on another port, the stand-in has another address.
  for (const { keyId, provider } of accounts) await replaceEndpoint(db, keyId, `${standIns}/${provider}`);
} finally {
  await db.close();
}

async function seed(within: Queryable): Promise<void> {
  const passwordHash = await hashPassword(password);
  for (const person of people) await insertPerson(within, { ...person, passwordHash, createdAt: now });
  const told: number[] = [];
  for (const { name, address, confirmed } of channels) {
    const channel = await insertEmailChannel(within, { name, address, createdAt: now, createdBy: 'Kaja Tamm' });
    if (confirmed) {
      await confirmChannel(within, channel.id, now);
      told.push(channel.id);
    }
  }
  if (values.bare) return;
  for (const { name, provider, keyId, secret } of accounts) {
    const { id } = await insertAccount(within, {
      name,
      keyId,
      provider,
      endpoint: `${standIns}/${provider}`,
      sealedSecret: secrets.seal(secret),
      createdAt: now,
      createdBy: 'Kaja Tamm',
      historyFrom: historyStart(now, Number(values.days))
    });
    for (const { account, service, change } of plans)
      if (account === name) await savePlan(within, id, service, { ...usualPlan, ...change }, 'Kaja Tamm', now);
  }
  const alarm: AlarmDefinition = {
    name: 'Processor nearly exhausted',
    signal: plainSignal({
      metric: 'machine.processor.use',
      where: [{ label: 'account', is: ['corallo-prod'] }],
      statistic: 'avg'
    }),
    rule: { condition: { is: 'above', threshold: 85 }, window: { needs: 3, of: 5 }, whenMissing: 'indeterminate' },
    severity: 'major',
    channels: told
  };
  await insertAlarm(within, alarm, 'Kaja Tamm', now);
}
