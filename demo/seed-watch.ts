// Who of Corallo Lines is reached how, who has the watch and is notified, and what is shelved or maintained.
import { onCallAt } from '../src/lib/core/rota';
import { dateAfter, dateAt, firstInstantAt, weekdayOf, type Instant } from '../src/lib/core/time';
import { type Queryable } from '../src/lib/server/db/pool';
import { allChannels, draftOf, giveChannel, insertChannel } from '../src/lib/server/notify/channels';
import { confirmChannel } from '../src/lib/server/notify/channel-confirmation';
import { insertRoute } from '../src/lib/server/routing/routes';
import { insertOverride, insertRota, insertSwap } from '../src/lib/server/rotas/rotas';
import { shelvingSchema } from '../src/lib/core/shelving';
import { insertShelving } from '../src/lib/server/shelving/shelvings';
import { allTeams } from '../src/lib/server/workspace/teams';
import { allPeople } from '../src/lib/server/people/people';
import { contacts, topic, rotas, routes } from './corallo';
import type { SecretBox } from '../src/lib/server/base/secrets';

/** How people are reached, who has the watch, and who is notified. */
export async function seedWatch(within: Queryable, secrets: SecretBox, now: Instant): Promise<void> {
  const by = 'Kaja Tamm';
  const ids = Object.fromEntries((await allPeople(within)).map(({ id, name }) => [name, id])) as Record<
    'kaja' | 'nerea' | 'ivo' | 'oda',
    number
  >;
  for (const { person, channel } of contacts) {
    const personId = ids[person as keyof typeof ids];
    const made = await insertChannel(within, secrets, draftOf(channel), { at: now, by, personId });
    await confirmChannel(within, made.id, now);
  }
  const { id: topicId } = await insertChannel(within, secrets, draftOf({ kind: 'topic', name: topic.name }), {
    at: now,
    by
  });
  for (const { confirmed, ...subscriber } of topic.subscribers) {
    const made = await insertChannel(within, secrets, draftOf(subscriber), { at: now, by, topicId });
    if (confirmed) await confirmChannel(within, made.id, now);
  }
  const all = await allChannels(within);
  for (const { id, name } of all)
    if (name === 'Machines on call' || name === 'Nerea’s phone') await giveChannel(within, id, ids.nerea);
  const today = dateAt(now, 'Europe/Rome');
  const monday = dateAfter(today, 1 - weekdayOf(today));
  const rotaIds = new Map<string, number>();
  // The turns of two and of three people begin anew this Monday.
  const begun = dateAfter(monday, -42);
  const teamIds = new Map((await allTeams(within)).map(({ id, name }) => [name, id]));
  for (const rota of rotas(ids, begun)) {
    const owned = { ...rota, teamId: teamIds.get(rota.name) ?? null };
    rotaIds.set(rota.name, (await insertRota(within, owned, { at: now, by })).id);
  }
  const found = (map: ReadonlyMap<string, number>) => (name: string) => {
    const id = map.get(name);
    if (id === undefined) throw new Error(`seed: nothing is called ${name}`);
    return id;
  };
  const channelIds = new Map(all.map(({ id, name }) => [name, id]));
  for (const { place, route } of routes(found(rotaIds), found(channelIds)))
    await insertRoute(within, route, place, { at: now, by });
  const at = (days: number, time: string) => firstInstantAt(dateAfter(today, days), time, 'Europe/Rome');
  const [fleet, data] = ['Fleet', 'Data'].map(found(rotaIds)) as [number, number];
  const night = { from: at(4, '20:00'), to: at(5, '08:00') };
  const [dataRota] = rotas(ids, begun);
  const askedBy = dataRota ? onCallAt(dataRota, [], night.from) : null;
  await insertOverride(
    within,
    { rotaId: fleet, from: at(1, '08:00'), to: at(2, '08:00'), personId: ids.ivo, reason: 'Oda is at the dentist' },
    { at: now, by: 'Oda Lind' }
  );
  if (askedBy !== null)
    await insertSwap(within, {
      ...{ rotaId: data, ...night, askedBy, askedOf: askedBy === ids.ivo ? ids.nerea : ids.ivo, askedAt: now }
    });
}

/** One alarm that somebody shelved, and maintenance that is planned. */
export async function seedShelvings(within: Queryable, now: Instant): Promise<void> {
  const [alarm] = await within.rows<{ id: number }>(
    `select id from alarms where name = 'Positions slow for the hour' order by id limit 1`
  );
  const zone = 'Europe/Rome';
  const today = dateAt(now, zone);
  const at = (days: number, time: string) => firstInstantAt(dateAfter(today, days), time, zone);
  if (alarm)
    await insertShelving(
      within,
      shelvingSchema.parse({
        ...{ kind: 'shelved', reason: 'Known since the fares were recomputed; release 4.19 fixes it', zone },
        ...{ scope: { alarmIds: [alarm.id] }, from: now, to: at(3, '12:00') }
      }),
      { at: now, by: 'Ivo Brandt' }
    );
  await insertShelving(
    within,
    shelvingSchema.parse({
      ...{ kind: 'maintenance', reason: 'Firmware of the gateways in Dorsale', zone, recurs: 'FREQ=WEEKLY;COUNT=4' },
      ...{ scope: { services: ['gateways'], resources: ['dorsale-gw-1', 'dorsale-gw-2'] } },
      ...{ from: at(2, '02:00'), to: at(2, '06:00') }
    }),
    { at: now, by: 'Kaja Tamm' }
  );
}
