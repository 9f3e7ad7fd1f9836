import { mostChannels } from '../schema';
import { failed, passed, type Check } from './check';

/** Whether anybody would hear it. */
export const toldCheck: Check = (alarm, { channels }) => {
  if (alarm.channels.length > 0) return [];
  const confirmed = channels.filter((channel) => channel.confirmed).map(({ id }) => id);
  if (confirmed.length === 0)
    return failed('told', 'Nobody would hear it, and no channel is confirmed.', {
      says: 'Add a channel',
      open: { page: 'channels' }
    });
  return failed('told', 'Nobody would hear it: choose a channel.', {
    says: confirmed.length === 1 ? 'Notify the confirmed channel' : `Notify all ${confirmed.length} confirmed channels`,
    alarm: { ...alarm, channels: confirmed.slice(0, mostChannels) }
  });
};

/** Whether everybody who is chosen would. */
export const confirmedCheck: Check = (alarm, facts) => {
  const notified = facts.channels.filter(({ id }) => alarm.channels.includes(id));
  if (notified.length === 0) return [];
  const deaf = notified.filter(({ confirmed }) => !confirmed);
  if (deaf.length === 0)
    return passed(
      'confirmed',
      `${notified.length === 1 ? 'The channel is' : `All ${notified.length} channels are`} confirmed.`
    );
  const addresses = deaf.map(({ address }) => address).join(', ');
  const says =
    deaf.length === notified.length
      ? `Nobody would hear it: ${addresses} never confirmed.`
      : `${addresses} never confirmed and would not hear it.`;
  return failed('confirmed', says, { says: 'Send the link again', open: { page: 'channels' } });
};
