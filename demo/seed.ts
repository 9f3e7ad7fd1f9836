// Writes the workspace of Corallo Lines into a running Bussola's database, once: people, accounts, channels, alarms, boards and all else that people have made.
import { parseArgs } from 'node:util';
import { usualPlan } from '../src/lib/core/intake';
import { routeSchema } from '../src/lib/core/notify/route';
import { after, day, duration, range, times } from '../src/lib/core/time';
import { allAlarms, insertAlarm, wantHistory } from '../src/lib/server/alarms/alarms';
import { historySpan } from '../src/lib/server/alarms/save-alarm';
import { insertBoardWithin } from '../src/lib/server/boards/boards';
import { makeFolder, moveBoard } from '../src/lib/server/boards/folders';
import { setFavourite } from '../src/lib/server/boards/favourites';
import { makeLink } from '../src/lib/server/boards/links';
import { budgets as storedBudgets } from '../src/lib/server/cost/budgets';
import { objectives } from '../src/lib/server/objective/objectives';
import { saveRate } from '../src/lib/server/cost/cost-settings';
import { insertEventRule } from '../src/lib/server/events/event-rules';
import { saveArrivedEvents } from '../src/lib/server/events/outside-events';
import { makeKey } from '../src/lib/server/intake/receive/keys';
import { insertMark } from '../src/lib/server/marks/marks';
import { registerDerived } from '../src/lib/server/query/derived/make-derived';
import { allGroups, insertGroup } from '../src/lib/server/query/groups/groups';
import { insertResponse } from '../src/lib/server/responses/responses';
import { insertSignal } from '../src/lib/server/query/signals/signals';
import { fileClock, systemClock } from '../src/lib/server/base/clock';
import { openPool, type Queryable } from '../src/lib/server/db/pool';
import { allAccounts, insertAccount, replaceEndpoint } from '../src/lib/server/inventory/accounts';
import { historyStart } from '../src/lib/server/intake/pull/pull';
import { allChannels, draftOf, insertChannel, insertEmailChannel } from '../src/lib/server/notify/channels';
import { confirmChannel } from '../src/lib/server/notify/channel-confirmation';
import { insertCheck } from '../src/lib/server/reachability/checks';
import { allRoutes, insertRoute } from '../src/lib/server/routing/routes';
import { hashPassword } from '../src/lib/server/people/passwords';
import { usualQuiet } from '../src/lib/core/people/quiet';
import { actRight } from '../src/lib/server/people/act-access';
import { lineRight } from '../src/lib/server/people/line-access';
import { allTeams, giveBoardToTeam, insertTeam } from '../src/lib/server/workspace/teams';
import { allPeople, changeOwn, countPeople, insertPerson } from '../src/lib/server/people/people';
import { secretBox } from '../src/lib/server/base/secrets';
import { savePlan } from '../src/lib/server/intake/plan/plans';
import {
  accounts,
  channels,
  everythingElse,
  isAtStandIns,
  otherChannels,
  people,
  teams,
  password,
  plans
} from './corallo';
import { alarms } from './alarms';
import { seedConnector } from './connector';
import { moveGates, seedGates } from './gates';
import { budgets } from './budgets';
import { promises } from './objectives';
import { responses } from './responses';
import { summaryPlans } from './summaries';
import { insertPlan } from '../src/lib/server/summary/plans';
import { nextSending } from '../src/lib/core/summary';
import { checksAt, moveChecks, moveHooks } from './moved';
import { boards, derived, eventRules, groups, keys, marks, rates, releases, signals } from './workspace';
import { seedShelvings, seedWatch } from './seed-watch';

const { values } = parseArgs({
  options: {
    data: { type: 'string' },
    /** Address of the stand-ins; each provider lies below it. */
    'stand-ins': { type: 'string' },
    days: { type: 'string', default: '14' },
    /** Only people and channels, for tests that connect the account themselves. */
    bare: { type: 'boolean', default: false },
    /** Also what people have made over months: the first alarm alone without it. */
    workspace: { type: 'boolean', default: false },
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
  const moved = { db, secrets, standIns, now };
  await moveHooks(moved);
  await moveChecks(moved);
  await moveGates(db, standIns);
} finally {
  await db.close();
}

async function seed(within: Queryable): Promise<void> {
  const passwordHash = await hashPassword(password);
  for (const person of people) await insertPerson(within, { ...person, passwordHash, createdAt: now });
  for (const { name, address, confirmed } of channels) {
    const channel = await insertEmailChannel(within, { name, address, createdAt: now, createdBy: 'Kaja Tamm' });
    if (confirmed) await confirmChannel(within, channel.id, now);
  }
  if (!values.workspace) {
    const [first] = await allChannels(within).then((all) => all.filter(({ confirmedAt }) => confirmedAt !== null));
    const route = everythingElse(first ? [{ kind: 'channel', channelId: first.id }] : []);
    await insertRoute(within, routeSchema.parse(route), 'last', { at: now, by: 'Kaja Tamm' });
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
  for (const definition of values.workspace ? alarms : alarms.slice(0, 1)) {
    const { id } = await insertAlarm(within, { ...definition, route: null }, 'Kaja Tamm', now);
    if (!values.workspace) continue;
    const { from, to } = historySpan(definition, now, duration(now - historyStart(now, Number(values.days))));
    if (from < to) await wantHistory(within, id, range(from, to));
  }
  if (values.workspace) await seedWorkspace(within);
}

/** Teams, and quiet hours of somebody who is notified of much. */
async function seedTeams(within: Queryable): Promise<void> {
  const ids = new Map((await allPeople(within)).map(({ id, name }) => [name, id]));
  for (const { name, members } of teams)
    await insertTeam(
      within,
      name,
      members.flatMap((member) => ids.get(member) ?? []),
      { at: now, by: 'Kaja Tamm' }
    );
  const nerea = ids.get('nerea');
  if (nerea !== undefined) await actRight.set(within, nerea, 'all');
  const oda = ids.get('oda');
  const [fleet] = (await allAccounts(within)).filter(({ name }) => name === 'fleet-edge');
  if (oda !== undefined) {
    await changeOwn(within, oda, { displayName: 'Oda Lind', zone: 'UTC', dateLocale: 'en', quiet: usualQuiet });
    if (fleet !== undefined) await lineRight.set(within, oda, [fleet.id]);
  }
}

async function seedWorkspace(within: Queryable): Promise<void> {
  for (const channel of otherChannels) {
    const address = isAtStandIns(channel) ? `${standIns}${channel.address}` : channel.address;
    const made = await insertChannel(within, secrets, draftOf({ ...channel, address }), { at: now, by: 'Kaja Tamm' });
    await confirmChannel(within, made.id, now);
  }
  await seedGates(within, secrets, standIns ?? '', now);
  await seedConnector(within, now);
  await seedTeams(within);
  await seedWatch(within, secrets, now);
  await seedShelvings(within, now);
  const byName = new Map((await allPeople(within)).map((person) => [person.name, person]));
  for (const { name, signal, by } of signals) await insertSignal(within, name, signal, by, now);
  for (const { definition, by } of groups) await insertGroup(within, definition, by, now);
  for (const { mark, by, source } of marks(now)) await insertMark(within, mark, { name: by, source }, now);
  for (const { name, scopes, by } of keys)
    await makeKey(within, {
      name,
      scopes,
      expiresAt: after(now, times(365, day)),
      mostSeries: 1000,
      mostBytesADay: 100_000_000,
      createdAt: now,
      createdBy: by
    });
  const routeIds = new Map((await allRoutes(within)).map(({ id, route: { name } }) => [name, id]));
  for (const budget of budgets((name) => routeIds.get(name) ?? 0))
    await storedBudgets.insert(within, budget, { at: now, by: 'Kaja Tamm' });
  for (const promise of promises((name) => routeIds.get(name) ?? 0))
    await objectives.insert(within, promise, { at: now, by: 'Nerea Olmo' });
  const alarmIds = new Map((await allAlarms(within)).map(({ id, definition: { name } }) => [name, id]));
  const groupIds = new Map((await allGroups(within)).map(({ id, name }) => [name, id]));
  const kaja = byName.get('kaja');
  if (kaja !== undefined)
    for (const response of responses(
      (name) => alarmIds.get(name) ?? 0,
      (name) => groupIds.get(name) ?? 0
    ))
      await insertResponse(within, response, { at: now, by: kaja.displayName, personId: kaja.id });
  const channelIds = new Map((await allChannels(within)).map(({ id, name }) => [name, id]));
  for (const plan of summaryPlans((name) => channelIds.get(name) ?? 0))
    await insertPlan(within, plan, nextSending(plan, now), { at: now, by: 'Kaja Tamm' });
  for (const rate of rates(now)) await saveRate(within, rate, { at: now, by: 'Kaja Tamm' });
  for (const rule of eventRules) await insertEventRule(within, rule, { at: now, by: 'Nerea Olmo' });
  for (const check of await checksAt(standIns ?? '')) await insertCheck(within, check, { at: now, by: 'Nerea Olmo' });
  const robot = (await allAccounts(within)).find(({ name }) => name === 'release-robot');
  if (robot !== undefined) await saveArrivedEvents(within, robot.id, releases(now));
  await registerDerived(within, derived, 'Nerea Olmo', now, Number(values.days));
  const teamIds = new Map((await allTeams(within)).map(({ id, name }) => [name, id]));
  const folders = new Map<string, number>();
  for (const { owner, star = false, folder, board } of boards) {
    const person = byName.get(owner);
    const made = await insertBoardWithin(
      within,
      board,
      { id: person?.id ?? null, displayName: person?.displayName ?? owner },
      now
    );
    if (folder !== undefined) {
      const id = folders.get(folder) ?? (await makeFolder(within, folder, 'Nerea Olmo', now)).id;
      folders.set(folder, id);
      await moveBoard(within, made.id, id);
    }
    const nerea = byName.get('nerea');
    if (star && nerea) await setFavourite(within, made.id, nerea.id, true);
    const team = teams.find((one) => one.board === board.title);
    if (team) await giveBoardToTeam(within, made.id, teamIds.get(team.name) ?? null);
    if (board.title === 'Night watch')
      await makeLink(within, made.id, {}, after(now, times(30, day)), 'Ivo Brandt', now);
  }
}
