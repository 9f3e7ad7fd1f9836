import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { z } from 'zod';
import type { firstPersonSchema } from '$lib/core/people/forms';
import { Refusal } from '$lib/core/problem/problem';
import type { Clock } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { linkBy, makeLink, takeLink } from '../people/links';
import { insertAlarm } from '../alarms/alarms';
import type { Disk } from '../base/disk';
import { alarmsOnBussola } from './alarms-on-bussola';
import { hashPassword } from '../people/passwords';
import { countPeople, insertPerson, type Person } from '../people/people';
import { insertEmailChannel } from '../notify/channels';
import { overLink, refuseWeak } from './invite';

/**
 * The address at which the first administrator is made, while there is nobody: each start makes another, so that only who sees the console of this one has it.
 *
 * @returns null when there are people
 * @example await firstLink(db, clock, 'https://bussola.example.test') // 'https://bussola.example.test/first/Yk0…'
 */
export async function firstLink(db: Queryable, clock: Clock, origin: string): Promise<string | null> {
  if ((await countPeople(db)) > 0) return null;
  return `${origin}/first/${await makeLink(db, 'first', null, clock.now())}`;
}

/** The file of the data folder that has the address, where it is not to be on the console. */
export const firstLinkFile = 'first-administrator';

/**
 * Hands out the address at which the first administrator is made: on the console, or as a file that only whoever runs Bussola reads. A file of an earlier start is removed.
 *
 * @param folder the data folder
 */
export async function handOutFirstLink(
  { db, clock, origin }: Pick<Context, 'db' | 'clock'> & { readonly origin: string },
  folder: string,
  way: 'print' | 'file' | 'none'
): Promise<void> {
  const file = join(folder, firstLinkFile);
  rmSync(file, { force: true });
  if (way === 'none') return;
  const link = await firstLink(db, clock, origin);
  if (link === null) return;
  // Printed, never logged: whoever sees the console may have it.
  if (way === 'print')
    process.stdout.write(`Nobody is here yet. Make the first administrator at ${link} (good for a day).\n`);
  else writeFileSync(file, `${link}\n`, { mode: 0o600, flag: 'wx' });
}

/** @throws Refusal `not-found` for a link that counts no more */
export async function requireFirstLink({ db, clock }: Pick<Context, 'db' | 'clock'>, token: string): Promise<void> {
  if ((await linkBy(db, 'first', token, clock.now())) === null) throw overLink();
}

/**
 * Makes the first administrator by the link of the console, and with them the alarms by which Bussola watches itself.
 *
 * @throws Refusal `not-found` for a link that counts no more, or once there is somebody; `invalid` for a password that is easy to guess
 */
export async function makeFirst(
  { db, clock, disk }: Context & { readonly disk: Pick<Disk, 'state'> },
  token: string,
  { password, ...person }: z.infer<typeof firstPersonSchema>
): Promise<Person> {
  await requireFirstLink({ db, clock }, token);
  refuseWeak(password, person);
  const passwordHash = await hashPassword(password);
  return db.transaction(async (within) => {
    const now = clock.now();
    if ((await takeLink(within, 'first', token, now)) === null) throw overLink();
    // Two at once wait for each other at the link; who comes second finds somebody.
    if ((await countPeople(within)) > 0)
      throw new Refusal('not-found', 'There is an administrator already.', 'Sign in.');
    const made = await insertPerson(within, { ...person, role: 'administrator', passwordHash, createdAt: now });
    await insertEmailChannel(within, {
      ...{ name: person.displayName, address: person.mail, personId: made.id, createdAt: now },
      createdBy: person.displayName
    });
    // What there is nothing to measure of would stay indeterminate for ever.
    for (const definition of alarmsOnBussola(disk.state() !== null))
      await insertAlarm(within, definition, 'Bussola', now);
    return made;
  });
}
