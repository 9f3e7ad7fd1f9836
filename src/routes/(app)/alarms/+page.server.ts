import { allChannels } from '$server/notify/channels';
import { listAlarms, unwatchedResources } from '$server/alarms/list';
import { recommendations } from '$server/alarms/recommended';
import { unreadableAlarms } from '$server/alarms/alarms';
import { darkAccounts } from '$server/intake/own/dark-accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db, clock, providers } = bussola();
  const now = clock.now();
  const dark = await darkAccounts(db, providers, now);
  const [alarms, channels, unwatched, unreadable, recommended] = await Promise.all([
    listAlarms(db, now, dark),
    allChannels(db),
    unwatchedResources(db),
    unreadableAlarms(db),
    recommendations(db)
  ]);
  return {
    alarms,
    channels: channels.map(({ id, address }) => ({ id, address })),
    unwatched,
    recommended: [...new Set(recommended.map(({ service }) => service))],
    unreadable: unreadable.map(({ message }) => message),
    now
  };
};
