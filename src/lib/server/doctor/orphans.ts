// every table with an account_id: read only
import { targetsOf } from '$lib/core/notify/route';
import { allAlarms } from '../alarms/alarms';
import { budgets } from '../cost/budgets';
import { type Queryable } from '../db/pool';
import { allChannels } from '../notify/channels';
import { objectives } from '../objective/objectives';
import { allProfiles } from '../people/people';
import { allGroups } from '../query/groups/groups';
import { allResponses } from '../responses/responses';
import { allRotas } from '../rotas/rotas';
import { allRoutes } from '../routing/routes';
import { allPlans } from '../summary/plans';

/**
 * What belongs to something that is not there any more: rows of accounts that are gone, and definitions that name what was removed.
 *
 * @returns sentences for people; none where nothing is wrong
 * @example await orphans(db) // ['3 rows of chunks belong to account 7, which is not there.']
 */
export const orphans = async (db: Queryable): Promise<string[]> => [
  ...(await rowsOfGone(db)),
  ...(await namesOfGone(db))
];

async function rowsOfGone(db: Queryable): Promise<string[]> {
  const tables = await db.rows<{ name: string }>(
    `select table_name as name
     from information_schema.columns
     join information_schema.tables using (table_schema, table_name)
     where column_name = 'account_id' and table_schema = current_schema() and table_type = 'BASE TABLE'
     order by 1`
  );
  const found: string[] = [];
  for (const { name } of tables) {
    const rows = await db.rows<{ accountId: number; count: number }>(
      `select account_id as "accountId", count(*)::integer as count
       from "${name.replaceAll('"', '""')}" as owned
       where account_id is not null and not exists (select from accounts where accounts.id = owned.account_id)
       group by 1
       order by 1`
    );
    for (const { accountId, count } of rows)
      found.push(
        `${count.toLocaleString('en')} ${count === 1 ? 'row' : 'rows'} of ${name} ${count === 1 ? 'belongs' : 'belong'} to account ${accountId}, which is not there.`
      );
  }
  return found;
}

/** Definitions that name a channel, rota, person, route, alarm or group that is gone. */
async function namesOfGone(db: Queryable): Promise<string[]> {
  const ids = (all: readonly { readonly id: number }[]) => new Set(all.map(({ id }) => id));
  const [channels, rotas, people, routes, alarms, groups] = [
    ids(await allChannels(db)),
    ids(await allRotas(db)),
    ids(await allProfiles(db)),
    await allRoutes(db),
    await allAlarms(db),
    ids(await allGroups(db))
  ];
  const [routeIds, alarmIds] = [ids(routes), ids(alarms)];
  const found: string[] = [];
  const check = (known: ReadonlySet<number>, id: number | null, who: string, what: string) => {
    if (id !== null && !known.has(id)) found.push(`${who} names ${what} ${id}, which is not there.`);
  };
  for (const { route } of routes)
    for (const target of targetsOf(route)) {
      const who = `The route “${route.name}”`;
      if (target.kind === 'channel') check(channels, target.channelId, who, 'channel');
      if (target.kind === 'rota') check(rotas, target.rotaId, who, 'rota');
      if (target.kind === 'person') check(people, target.personId, who, 'person');
    }
  for (const { definition } of alarms) check(routeIds, definition.route, `The alarm “${definition.name}”`, 'route');
  for (const { value } of await budgets.all(db)) check(routeIds, value.route, `The budget “${value.name}”`, 'route');
  for (const { value } of await objectives.all(db))
    check(routeIds, value.route, `The promise “${value.name}”`, 'route');
  for (const { response } of await allResponses(db)) {
    const who = `The response “${response.name}”`;
    check(alarmIds, response.alarmId, who, 'alarm');
    check(groups, response.limits.group?.groupId ?? null, who, 'group');
    if (response.action.kind === 'webhook') check(channels, response.action.channelId, who, 'channel');
  }
  for (const { plan } of await allPlans(db))
    for (const id of plan.channels) check(channels, id, `The summary “${plan.name}”`, 'channel');
  return found;
}
