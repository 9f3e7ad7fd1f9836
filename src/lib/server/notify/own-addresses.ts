// channels of people
import { addressedChannelSchema } from '$lib/core/notify';
import { refusalOfSchema } from '$lib/core/forms/problems';
import { Refusal } from '$lib/core/problem/problem';
import { profileOf, isNameOrMail } from '../people/people';
import { allChannels, type Channel } from './channels';
import { addChannel, confirmWithCode, requireChannel, sendConfirmation, type ChannelContext } from './manage-channels';

/** Addresses that one person may have, so that nobody fills the list of all. */
const mostAddresses = 10;

/** Whoever adds them, for themselves. */
interface Owner {
  readonly id: number;
  readonly displayName: string;
}

/**
 * Adds a mail address or telephone number by which a person is reached, and sends what confirms it.
 *
 * @throws Refusal `invalid` for what is no address, one too many, or the mail address of somebody else; as `addChannel` does
 */
export async function addOwnAddress(
  context: ChannelContext,
  person: Owner,
  entered: { readonly kind: 'email' | 'text-message'; readonly address: string }
): Promise<Channel> {
  const { db } = context;
  const own = (await allChannels(db)).filter(({ personId }) => personId === person.id);
  if (own.length >= mostAddresses)
    throw new Refusal('invalid', `You have ${mostAddresses} addresses, which is the most.`, 'Remove one first.');
  const read = addressedChannelSchema.safeParse({ ...entered, name: person.displayName });
  if (!read.success) throw refusalOfSchema(read.error);
  const { address } = read.data;
  // Invitations and new passwords are sent to it: nobody else holds it.
  const isOwn = (await profileOf(db, person.id))?.mail?.toLowerCase() === address.toLowerCase();
  if (!isOwn && (await isNameOrMail(db, address)))
    throw new Refusal('invalid', 'This address is taken.', 'Give one of your own.', { path: ['address'] });
  return addChannel(context, read.data, person, { personId: person.id });
}

/** Confirms an own telephone number by the code that was sent to it. @throws Refusal `not-found`, `invalid` */
export async function confirmOwnAddress(
  context: ChannelContext,
  person: Owner,
  id: number,
  code: string
): Promise<Channel> {
  await requireOwnAddress(context, person, id);
  return confirmWithCode(context, id, code);
}

/** Sends what confirms an own address once more. @throws Refusal `not-found`, `too-many-requests` */
export async function askOwnAddressAgain(context: ChannelContext, person: Owner, id: number): Promise<Channel> {
  await requireOwnAddress(context, person, id);
  return sendConfirmation(context, id, person);
}

/** An own address that is no device. @throws Refusal `not-found`, also for what is somebody else's */
export async function requireOwnAddress(
  { db }: Pick<ChannelContext, 'db'>,
  { id: personId }: Owner,
  id: number
): Promise<Channel> {
  const channel = await requireChannel(db, id);
  if (channel.personId === personId && channel.kind !== 'push') return channel;
  throw new Refusal('not-found', 'There is no such address.', 'It may have been removed.');
}
