import { after, before, day, duration, times } from '$lib/core/time';
import { incidentsIn } from '$server/incidents/span';
import { storedTemplates } from '$server/notify/message-templates';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Incidents that a preview may be written of. */
const mostListed = 30;

export const load: PageServerLoad = async () => {
  const { db, clock } = bussola();
  const now = clock.now();
  const [stored, incidents] = await Promise.all([
    storedTemplates(db),
    incidentsIn(db, { from: before(now, times(90, day)), to: after(now, duration(1)) }, mostListed)
  ]);
  return {
    stored,
    incidents: incidents
      .filter(({ alarmId }) => alarmId !== null)
      .map(({ id, subject, alarm, severity, openedAt }) => ({ id, subject, alarm, severity, openedAt }))
  };
};
