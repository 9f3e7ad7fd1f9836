import { gravestLevel, serviceOfAlarm, type AlarmDefinition } from '$lib/core/alarm';
import { reachOf, usesChannel } from '$lib/core/notify/route';
import { countOf, formOf } from '$lib/core/words/count';
import { allAccounts } from '$server/inventory/accounts';
import { allMetrics } from '$server/inventory/metrics';
import { allResources } from '$server/inventory/resources';
import { allChannels } from '$server/notify/channels';
import { allAlarms, countStates, unreadableAlarms } from '$server/alarms/alarms';
import { watchedWords } from '$server/alarms/watched';
import { whatWorks } from '$server/respond/self-check';
import { routingChoices } from '$server/routing/routing-choices';
import { processFaults } from '$server/observe/which-processes';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db, heartbeat, duties } = bussola();
  const [accounts, resources, channels, alarms, states, metrics, unreadable, routing, works, processes] =
    await Promise.all([
      allAccounts(db),
      allResources(db),
      allChannels(db),
      allAlarms(db),
      countStates(db),
      allMetrics(db),
      unreadableAlarms(db),
      routingChoices(db),
      whatWorks(db),
      processFaults(db, duties)
    ]);
  const isReached = (of: AlarmDefinition) => {
    const severity = gravestLevel(of.rule).severity;
    return (reachOf({ ...of, severity, service: serviceOfAlarm(of, metrics) }, routing)?.confirmed ?? 0) > 0;
  };
  const unconfirmed = channels.filter(({ confirmedAt }) => confirmedAt === null);
  return {
    works,
    accounts: accounts.length,
    resources: resources.length,
    alarms: alarms.map(({ id, definition }) => ({ id, ...definition, watched: watchedWords(definition, metrics) })),
    indeterminate: states.filter(({ state }) => state === 'indeterminate').reduce((sum, { count }) => sum + count, 0),
    silent: [
      ...processes.map((fault) => ({ ...fault, href: '/processes', button: 'See the processes' })),
      ...(heartbeat.fault() === null
        ? []
        : [
            {
              what: 'The heartbeat is not taken',
              why: `nobody outside would notice if Bussola were gone: ${heartbeat.fault()}`,
              href: '/outbox',
              button: 'See the outbox'
            }
          ]),
      ...unreadable.map(({ message, remedy }) => ({
        what: message,
        why: remedy,
        href: '/store',
        button: 'See the store'
      })),
      ...unconfirmed.map(({ address, id, personId }) => ({
        what: `${address} never confirmed`,
        why: notifiedBy(routing.routes.filter(({ route }) => usesChannel(route, { id, personId })).length),
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
        .filter(({ definition }) => definition.enabled && !isReached(definition))
        .map(({ id, definition }) => ({
          what: `${definition.name} notifies nobody`,
          why: 'it is shown here, but no message is sent',
          href: `/alarms/${id}`,
          button: 'See why'
        }))
    ]
  };
};

const notifiedBy = (count: number): string =>
  count === 0 ? 'no route notifies it yet' : `${countOf(count, 'route')} ${formOf(count, 'notifies', 'notify')} it`;
