import { allChannels } from '$server/notify/channels';
import { sessionsOf } from '$server/people/sessions';
import { bussola } from '$server/process/running';
import { requireProfile } from '$server/workspace/invite';
import type { Person } from '$server/people/people';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const { id } = locals.person as Person;
  const [profile, sessions, channels] = await Promise.all([
    requireProfile(db, id),
    sessionsOf(db, id, clock.now()),
    allChannels(db)
  ]);
  const { name, displayName, role, zone, dateLocale, mail, quiet, hasPassword, hasFactor, codesLeft } = profile;
  return {
    profile: { name, displayName, role, zone, dateLocale, mail, quiet, hasPassword, hasFactor, codesLeft },
    sessions: sessions.map(({ key, ...rest }) => ({ ...rest, isThis: key === locals.session?.key })),
    devices: channels
      .filter(({ personId, kind }) => personId === id && kind === 'push')
      .map(({ id: deviceId, name: called, confirmedAt }) => ({
        id: deviceId,
        name: called.replace(`${displayName}, `, ''),
        isConfirmed: confirmedAt !== null
      })),
    channels: channels
      .filter(({ personId, kind }) => personId === id && kind !== 'push')
      .map(({ id: channelId, kind, address, confirmedAt }) => ({ id: channelId, kind, address, confirmedAt }))
  };
};
