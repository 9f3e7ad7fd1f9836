import { allAccounts } from '$server/inventory/accounts';
import { allMetrics } from '$server/inventory/metrics';
import { allResources } from '$server/inventory/resources';
import { allChannels } from '$server/notify/channels';
import { allAlarms, countStates, unreadableAlarms } from '$server/alarms/alarms';
import { watchedWords } from '$server/alarms/watched';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [accounts, resources, channels, alarms, states, metrics, unreadable] = await Promise.all([
    allAccounts(db),
    allResources(db),
    allChannels(db),
    allAlarms(db),
    countStates(db),
    allMetrics(db),
    unreadableAlarms(db)
  ]);
  const unconfirmed = channels.filter(({ confirmedAt }) => confirmedAt === null);
  return {
    accounts: accounts.length,
    resources: resources.length,
    alarms: alarms.map(({ id, definition }) => ({ id, ...definition, watched: watchedWords(definition, metrics) })),
    indeterminate: states.filter(({ state }) => state === 'indeterminate').reduce((sum, { count }) => sum + count, 0),
    silent: [
      ...unreadable.map(({ message, remedy }) => ({
        what: message,
        why: remedy,
        href: '/store',
        button: 'See the store'
      })),
      ...unconfirmed.map(({ address, id }) => ({
        what: `${address} never confirmed`,
        why: toldBy(alarms.filter(({ definition }) => definition.channels.includes(id)).length),
        href: '/channels',
        button: 'See channels'
      })),
      ...accounts
        .filter(({ lastError }) => lastError !== null)
        .map(({ id, name, lastError }) => ({
          what: `${name}: ${lastError?.message ?? ''}`,
          why: lastError?.remedy ?? '',
          href: `/accounts/${id}`,
          button: 'How to fix it'
        })),
      ...alarms
        .filter(({ lastError }) => lastError !== null)
        .map(({ id, definition, lastError }) => ({
          what: `${definition.name} cannot be judged: ${lastError?.message ?? ''}`,
          why: lastError?.remedy ?? '',
          href: `/alarms/${id}`,
          button: 'Open the alarm'
        })),
      ...alarms
        .filter(({ definition }) => definition.channels.some((id) => !channels.some((channel) => channel.id === id)))
        .map(({ id, definition }) => ({
          what: `${definition.name} notifies a channel that no longer exists`,
          why: 'no message reaches it',
          href: `/alarms/${id}`,
          button: 'Choose a channel'
        })),
      ...alarms
        .filter(({ definition }) => definition.channels.length === 0)
        .map(({ id, definition }) => ({
          what: `${definition.name} notifies nobody`,
          why: 'it is shown here, but no message leaves',
          href: `/alarms/${id}`,
          button: 'Choose a channel'
        }))
    ]
  };
};

const toldBy = (count: number): string =>
  count === 0 ? 'no alarm notifies it yet' : count === 1 ? '1 alarm notifies it' : `${count} alarms notify it`;
