import { countOf } from '../../words/count';
import { failed, passed, type Check } from './check';

/** Whether anybody would be notified. */
export const notifiedCheck: Check = (alarm, { reachOf }) => {
  if (reachOf(alarm) !== null) return [];
  return failed('notified', 'Nobody would be notified: no route takes what it raises.', {
    says: 'See the routes',
    open: { page: 'routes' }
  });
};

/** Whether everybody who is to be notified at first would receive it. */
export const confirmedCheck: Check = (alarm, { reachOf }) => {
  const reach = reachOf(alarm);
  if (reach === null) return [];
  const { route, confirmed, unconfirmed } = reach;
  if (unconfirmed.length === 0 && confirmed > 0)
    return passed('confirmed', `The route “${route}” reaches ${countOf(confirmed, 'confirmed channel')}.`);
  const remedy = { says: 'See the channels', open: { page: 'channels' as const } };
  if (confirmed === 0)
    return failed(
      'confirmed',
      `Nobody would be notified at first: the route “${route}” reaches no confirmed channel.`,
      remedy
    );
  return failed('confirmed', `Not confirmed, so not notified: ${unconfirmed.join(', ')}.`, remedy);
};
