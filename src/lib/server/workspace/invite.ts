import type { Invitation } from '$lib/core/people/forms';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { insertEmailChannel, allChannels, giveChannel } from '../notify/channels';
import { confirmChannel } from '../notify/channel-confirmation';
import type { ConfirmationLimits } from '../notify/confirmation-limits';
import type { Delivery } from '../notify/deliver';
import { forgetLinksOf, linkBy, takeLink, type PersonLink } from '../people/links';
import { hashPassword, weaknessOf } from '../people/passwords';
import { insertPerson, personByNameOrMail, profileOf, setPassword, type Person, type Profile } from '../people/people';
import { endSessionsOf } from '../people/sessions';
import { setTeamsOf } from './teams';

/** Messages that let people in leave before tests and after incidents. */
const urgency = 8;

export interface InvitingContext extends Context {
  readonly delivery: Delivery;
  readonly confirmations: ConfirmationLimits;
}

/** Who invites or asks. */
interface By {
  readonly id: number | null;
  readonly displayName: string;
}

/**
 * Invites somebody: they get a mail with a link by which they choose a password. Their address becomes a channel of their own, which the link confirms.
 *
 * @throws Refusal `name-taken`, `too-many-requests`
 */
export async function invite(context: InvitingContext, invitation: Invitation, by: By): Promise<Profile> {
  const { db, clock, delivery, changes } = context;
  await refuseTooMany(context, by.id ?? 0, invitation.mail);
  const id = await db.transaction(async (within) => {
    const now = clock.now();
    const { teamIds, ...person } = invitation;
    const made = await insertPerson(within, { ...person, passwordHash: null, zone: 'UTC', createdAt: now });
    await setTeamsOf(within, made.id, teamIds);
    const channelId = await mailChannelOf(within, made.id, person, by.displayName, now);
    await delivery.enqueue(within, accountMail(channelId, made.id, { kind: 'join', by: by.displayName }, now));
    return made.id;
  });
  changes.tell('routing', {});
  return requireProfile(db, id);
}

/** Sends an invitation again; the link before counts no more. @throws Refusal `not-found`, `invalid` for somebody who has joined, `too-many-requests` */
export async function inviteAgain(context: InvitingContext, id: number, by: By): Promise<void> {
  const { db, clock, delivery } = context;
  const { mail, hasPassword, displayName } = await requireProfile(db, id);
  if (hasPassword || mail === null)
    throw new Refusal('invalid', `${displayName} has joined already.`, 'They can reset their password at the sign-in.');
  await refuseTooMany(context, by.id ?? 0, mail);
  await db.transaction(async (within) => {
    const now = clock.now();
    const channelId = await mailChannelOf(within, id, { mail, displayName }, by.displayName, now);
    await delivery.enqueue(within, accountMail(channelId, id, { kind: 'join', by: by.displayName }, now));
  });
}

/**
 * Sends somebody a link to set a new password, if there is somebody of that name or address who has a mail address. Nothing says whether there is.
 *
 * @throws Refusal `too-many-requests`
 */
export async function askForReset(context: InvitingContext, nameOrMail: string, address: string): Promise<void> {
  const { db, clock, delivery, confirmations } = context;
  // Counted by who asks and by what was typed, whether anybody has it or not: so that the answer tells nothing.
  const full = await confirmations.take(`resets from ${address}`, `reset of ${nameOrMail}`);
  if (full !== null) throw new Refusal('too-many-requests', 'Too many links were asked for.', 'Try again in an hour.');
  const person = await personByNameOrMail(db, nameOrMail);
  const profile = person === null ? null : await profileOf(db, person.id);
  if (profile === null || profile.mail === null || !profile.hasPassword) return;
  const { id, mail, displayName } = profile;
  await db.transaction(async (within) => {
    const now = clock.now();
    const channelId = await mailChannelOf(within, id, { mail, displayName }, displayName, now);
    await delivery.enqueue(within, accountMail(channelId, id, { kind: 'reset' }, now));
  });
}

const personOf = (db: Queryable, link: PersonLink | null): Promise<Profile | null> =>
  link === null || link.personId === null ? Promise.resolve(null) : profileOf(db, link.personId);

/** Whose link it is. @throws Refusal `not-found` for one that counts no more */
export async function whoseLink({ db, clock }: Context, kind: 'invitation' | 'reset', token: string): Promise<Profile> {
  const link = await linkBy(db, kind, token, clock.now());
  const profile = await personOf(db, link);
  if (profile === null) throw overLink();
  return profile;
}

/**
 * Lets somebody in by the link of an invitation or of a new password.
 *
 * @returns who they are
 * @throws Refusal `not-found` for a link that counts no more, `invalid` for a password that is easy to guess
 */
export async function setPasswordByLink(
  { db, clock, changes }: Context,
  kind: 'invitation' | 'reset',
  token: string,
  { password, zone }: { readonly password: string; readonly zone?: string }
): Promise<Person> {
  refuseWeak(password, await whoseLink({ db, clock, changes }, kind, token));
  const hash = await hashPassword(password); // takes a while: not within the transaction, and for nobody without a link
  const ended: string[] = [];
  const person = await db.transaction(async (within) => {
    const now = clock.now();
    const link = await takeLink(within, kind, token, now);
    const profile = await personOf(within, link);
    if (profile === null) throw overLink();
    await setPassword(within, profile.id, hash);
    await forgetLinksOf(within, profile.id);
    // Who had the password before is signed out.
    ended.push(...(await endSessionsOf(within, profile.id, null)));
    if (zone !== undefined) await within.rows('update people set zone = $2 where id = $1', [profile.id, zone]);
    // Whoever has the link reads the address.
    if (profile.mail !== null)
      for (const channel of await allChannels(within))
        if (
          channel.personId === profile.id &&
          channel.confirmedAt === null &&
          sameAddress(channel.address, profile.mail)
        )
          await confirmChannel(within, channel.id, now);
    return profile;
  });
  for (const key of ended) changes.tell('session', { key });
  changes.tell('routing', {});
  return person;
}

/** @throws Refusal `invalid` when a password is easy to guess */
export function refuseWeak(
  password: string,
  { name, displayName, mail }: Pick<Profile, 'name' | 'displayName' | 'mail'>
): void {
  const why = weaknessOf(password, [name, displayName, mail ?? '']);
  if (why !== null) throw new Refusal('invalid', why, 'Choose another password.', { path: ['password'] });
}

/** What is said of a link that is unknown, used or expired, whichever it is. */
export const overLink = (): Refusal =>
  new Refusal('not-found', 'This link is not valid any more.', 'Ask for a new one, or for another invitation.');

/** @throws Refusal `not-found` */
export async function requireProfile(db: Queryable, id: number): Promise<Profile> {
  const profile = await profileOf(db, id);
  if (profile === null) throw new Refusal('not-found', 'There is no such person.', 'See the page People.');
  return profile;
}

const sameAddress = (one: string, other: string): boolean => one.toLowerCase() === other.toLowerCase();

const accountMail = (
  channelId: number,
  personId: number,
  content: { readonly kind: 'join'; readonly by: string } | { readonly kind: 'reset' },
  createdAt: Instant
) => ({ channelId, personId, content, createdAt, incidentId: null, alarmId: null, priority: urgency });

/** The channel of a person's mail address, made when there is none. */
async function mailChannelOf(
  within: Queryable,
  personId: number,
  { mail, displayName }: { readonly mail: string; readonly displayName: string },
  createdBy: string,
  createdAt: Instant
): Promise<number> {
  const known = (await allChannels(within)).find(({ kind, address }) => kind === 'email' && sameAddress(address, mail));
  if (known !== undefined) {
    // Somebody who claims the address without having confirmed it does not keep it from whose it is.
    if (known.personId !== null && known.personId !== personId && known.confirmedAt === null)
      await giveChannel(within, known.id, personId);
    return known.id;
  }
  const made = await insertEmailChannel(within, { name: displayName, address: mail, createdAt, createdBy, personId });
  return made.id;
}

async function refuseTooMany({ confirmations }: InvitingContext, personId: number, mail: string): Promise<void> {
  const full = await confirmations.take(personId, mail);
  if (full !== null) throw new Refusal('too-many-requests', full, '');
}
