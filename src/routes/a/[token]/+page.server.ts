import { asErrorPage } from '$server/http/pages';
import { countMiss } from '$server/boards/link-limits';
import { readerDates } from '$server/http/reader-dates';
import { bussola } from '$server/process/running';
import { acknowledgeByLink, linkedMessage } from '$server/respond/acknowledge-by-link';
import type { Actions, PageServerLoad } from './$types';

/** Opening the link only shows what it is about: mail programs open links by themselves, acknowledging takes a press of the button. */
export const load: PageServerLoad = async ({ params, locals }) => {
  const server = bussola();
  const { subject, by, isUsed, incidents, incidentIds } = await linkedMessage(server, params.token).catch(
    async (error: unknown) => {
      await countMiss(locals.address).catch(asErrorPage);
      return asErrorPage(error);
    }
  );
  return {
    subject,
    by: locals.person?.displayName ?? by,
    isUsed,
    more: incidentIds.length - incidents.length,
    now: server.clock.now(),
    dates: readerDates(locals.person),
    incidents: incidents.map(({ id, subject: on, alarm, severity, openedAt, closedAt, acknowledgedBy }) => ({
      ...{ id, on, alarm, severity, openedAt, closedAt, acknowledgedBy }
    }))
  };
};

export const actions = {
  default: async ({ params, locals }) => {
    await acknowledgeByLink(bussola(), params.token, locals.person?.displayName ?? null).catch(asErrorPage);
    return { done: true };
  }
} satisfies Actions;
