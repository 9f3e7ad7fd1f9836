import { allAlarms } from '$server/alarms/alarms';
import { allChannels } from '$server/notify/channels';
import { actRight } from '$server/people/act-access';
import { bussola } from '$server/process/running';
import { allResponses } from '$server/responses/responses';
import { listRuns } from '$server/responses/runs';
import type { PageServerLoad } from './$types';

/** What was done lately that the page lists. */
const mostRuns = 100;

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:responses');
  depends('bussola:overview');
  const { db } = bussola();
  const [responses, runs, alarms, channels, accounts] = await Promise.all([
    allResponses(db),
    listRuns(db, {}, mostRuns),
    allAlarms(db),
    allChannels(db),
    actRight.of(db, locals.person)
  ]);
  return {
    responses: responses.map(({ personId: _, ...stored }) => ({
      ...stored,
      alarm: alarms.find(({ id }) => id === stored.response.alarmId)?.definition.name ?? null
    })),
    runs,
    channels: Object.fromEntries(channels.map(({ id, name }) => [id, name])),
    mayActOnAll: accounts === null
  };
};
