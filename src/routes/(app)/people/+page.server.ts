import { hasRights } from '$lib/core/people/rights';
import { stateOf } from '$server/api/people';
import { allChannels } from '$server/notify/channels';
import { allAccounts } from '$server/inventory/accounts';
import { actRight } from '$server/people/act-access';
import { lineRight } from '$server/people/line-access';
import { allProfiles } from '$server/people/people';
import { lastSignIns } from '$server/people/sessions';
import { bussola } from '$server/process/running';
import { whoHasTheWatch } from '$server/rotas/on-call';
import { allTeams } from '$server/workspace/teams';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const [profiles, teams, channels, onCall, lastSeen, lines, acts, accounts] = await Promise.all([
    allProfiles(db),
    allTeams(db, []),
    allChannels(db),
    whoHasTheWatch(db, clock.now()),
    lastSignIns(db),
    lineRight.all(db),
    actRight.all(db),
    allAccounts(db)
  ]);
  const administers = locals.person !== null && hasRights(locals.person.role, 'administrator');
  return {
    teams: teams.map(({ id, name }) => ({ id, name })),
    accounts: accounts.map(({ id, name }) => ({ id, name })),
    people: profiles.map((profile) => ({
      ...{ id: profile.id, name: profile.name, displayName: profile.displayName, role: profile.role },
      zone: profile.zone,
      /** What was said of them; null for as their role says. */
      lines: lines.get(profile.id) ?? null,
      acts: acts.get(profile.id) ?? null,
      state: stateOf(profile),
      teamIds: teams.filter(({ memberIds }) => memberIds.includes(profile.id)).map(({ id }) => id),
      reachedBy: channels
        .filter(({ personId, confirmedAt }) => personId === profile.id && confirmedAt !== null)
        .map(({ kind }) => kind),
      watches: onCall.filter(({ personId }) => personId === profile.id).map(({ rota }) => rota),
      // How others sign in is for administrators.
      ...(administers
        ? {
            mail: profile.mail,
            hasFactor: profile.hasFactor,
            hasPassword: profile.hasPassword,
            signedInAt: lastSeen.get(profile.id) ?? null
          }
        : { mail: null, hasFactor: null, hasPassword: null, signedInAt: null })
    }))
  };
};
