// Writes the workspace of Corallo Lines into a running Bussola's database, once: people, accounts, channels, alarms, boards and all else that people have made.
import { usualPlan } from '../src/lib/core/intake';
import { routeSchema } from '../src/lib/core/notify/route';
import { after, day, duration, range, times, type Instant } from '../src/lib/core/time';
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
import type { Clock } from '../src/lib/core/time';
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
import { secretBox, type SecretBox } from '../src/lib/server/base/secrets';
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

/** What is seeded, and where. */
export interface Seeding {
  /** The data folder of a running Bussola. */
  readonly data: string;
  /** A PostgreSQL server's database, where Bussola has its own there. */
  readonly databaseUrl?: string | undefined;
  /** The key of its secrets, unless that lies in the folder. */
  readonly key?: string | undefined;
  /** Address of the stand-ins; each provider lies below it. */
  readonly standIns: string;
  /** Days of history that are requested. */
  readonly days: number;
  /** Only people and channels, for tests that connect the account themselves. */
  readonly bare?: boolean;
  /** Also what people have made over months: the first alarm alone without it. */
  readonly workspace?: boolean;
  readonly clock: Clock;
}

/**
 * Seeds what is not there yet, and leads what is there to where the stand-ins are now.
 *
 * @throws what the database says
 * @example await seedDemo({ data: 'bussola-data', standIns: 'http://127.0.0.1:4401', days: 14, clock: systemClock })
 */
export async function seedDemo(seeding: Seeding): Promise<void> {
  const { data, databaseUrl, standIns, clock } = seeding;
  const secrets = secretBox(data, seeding.key);
  const db = openPool(
    databaseUrl ? { connectionString: databaseUrl } : { host: data, user: 'postgres', database: 'postgres' },
    1
  );
  const now = clock.now();
  const parts = { ...seeding, secrets, now };
  try {
    if ((await countPeople(db)) === 0) await db.transaction((within) => seed(within, parts));
    // Started on another port, the stand-in has another address.
    for (const { keyId, provider } of accounts) await replaceEndpoint(db, keyId, `${standIns}/${provider}`);
    const moved = { db, secrets, standIns, now };
    await moveHooks(moved);
    await moveChecks(moved);
    await moveGates(db, standIns);
  } finally {
    await db.close();
  }
}

/** What the parts of it need. */
interface Parts extends Seeding {
  readonly secrets: SecretBox;
  readonly now: Instant;
}

async function seed(within: Queryable, parts: Parts): Promise<void> {
  const { standIns, days, bare = false, workspace = false, secrets, now } = parts;
  const passwordHash = await hashPassword(password);
  for (const person of people) await insertPerson(within, { ...person, passwordHash, createdAt: now });
  for (const { name, address, confirmed } of channels) {
    const channel = await insertEmailChannel(within, { name, address, createdAt: now, createdBy: 'Kaja Tamm' });
    if (confirmed) await confirmChannel(within, channel.id, now);
  }
  if (!workspace) {
    const [first] = await allChannels(within).then((all) => all.filter(({ confirmedAt }) => confirmedAt !== null));
    const route = everythingElse(first ? [{ kind: 'channel', channelId: first.id }] : []);
    await insertRoute(within, routeSchema.parse(route), 'last', { at: now, by: 'Kaja Tamm' });
  }
  if (bare) return;
  for (const { name, provider, keyId, secret } of accounts) {
    const { id } = await insertAccount(within, {
      name,
      keyId,
      provider,
      endpoint: `${standIns}/${provider}`,
      sealedSecret: secrets.seal(secret),
      createdAt: now,
      createdBy: 'Kaja Tamm',
      historyFrom: historyStart(now, days)
    });
    for (const { account, service, change } of plans)
      if (account === name) await savePlan(within, id, service, { ...usualPlan, ...change }, 'Kaja Tamm', now);
  }
  for (const definition of workspace ? alarms : alarms.slice(0, 1)) {
    const { id } = await insertAlarm(within, { ...definition, route: null }, 'Kaja Tamm', now);
    if (!workspace) continue;
    const { from, to } = historySpan(definition, now, duration(now - historyStart(now, days)));
    if (from < to) await wantHistory(within, id, range(from, to));
  }
  if (workspace) await seedWorkspace(within, parts);
}

/** Teams, and quiet hours of somebody who is notified of much. */
async function seedTeams(within: Queryable, now: Instant): Promise<void> {
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

async function seedWorkspace(within: Queryable, { standIns, days, secrets, now }: Parts): Promise<void> {
  for (const channel of otherChannels) {
    const address = isAtStandIns(channel) ? `${standIns}${channel.address}` : channel.address;
    const made = await insertChannel(within, secrets, draftOf({ ...channel, address }), { at: now, by: 'Kaja Tamm' });
    await confirmChannel(within, made.id, now);
  }
  await seedGates(within, secrets, standIns, now);
  await seedConnector(within, now);
  await seedTeams(within, now);
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
  for (const check of await checksAt(standIns)) await insertCheck(within, check, { at: now, by: 'Nerea Olmo' });
  const robot = (await allAccounts(within)).find(({ name }) => name === 'release-robot');
  if (robot !== undefined) await saveArrivedEvents(within, robot.id, releases(now));
  await registerDerived(within, derived, 'Nerea Olmo', now, days);
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
