// channels of kind push
import { createHash } from 'node:crypto';
import type { PushSubscription } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import type { SecretBox } from '../base/secrets';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { allChannels, insertChannel, removeChannel, type Channel } from './channels';
import { confirmChannel } from './channel-confirmation';

/** Devices that one person may have. */
const mostDevices = 20;

/** The devices on which a person gets notifications. */
export const devicesOf = async (db: Queryable, personId: number): Promise<Channel[]> =>
  (await allChannels(db)).filter((channel) => channel.kind === 'push' && channel.personId === personId);

/**
 * Adds the device on which a person is signed in. Nobody needs to confirm it: the person has just agreed on it. One that is set up once more takes the place of what it was.
 *
 * @param name what the person calls it, such as "Phone"
 * @throws Refusal `invalid` for one too many
 */
export async function addDevice(
  { db, clock, secrets, changes }: Context & { readonly secrets: SecretBox },
  person: { readonly id: number; readonly displayName: string },
  name: string,
  subscription: PushSubscription
): Promise<Channel> {
  const mark = createHash('sha256').update(subscription.endpoint).digest('hex').slice(0, 12);
  const address = `${new URL(subscription.endpoint).host}/… (${mark})`;
  const made = await db.transaction(async (within) => {
    const all = await allChannels(within);
    // Whoever used the browser before is not notified on it any more.
    const before = all.find((channel) => channel.kind === 'push' && channel.address === address);
    if (before !== undefined) await removeChannel(within, before.id);
    const own = all.filter(({ kind, personId, id }) => kind === 'push' && personId === person.id && id !== before?.id);
    if (own.length >= mostDevices)
      throw new Refusal('invalid', `You have ${mostDevices} devices, which is the most.`, 'Remove one first.');
    const at = clock.now();
    const device = await insertChannel(
      within,
      secrets,
      { kind: 'push', name: `${person.displayName}, ${name}`, address, settings: {}, secret: { subscription } },
      { at, by: person.displayName, personId: person.id }
    );
    await confirmChannel(within, device.id, at);
    return { ...device, confirmedAt: at };
  });
  changes.tell('routing', {});
  return made;
}

/** Removes a device of a person's own. @throws Refusal `not-found` */
export async function removeDevice({ db, changes }: Context, personId: number, id: number): Promise<void> {
  if (!(await devicesOf(db, personId)).some((device) => device.id === id))
    throw new Refusal('not-found', 'There is no such device.', 'It may have been removed.');
  await db.transaction((within) => removeChannel(within, id));
  changes.tell('routing', {});
}
