import { countMiss } from '$server/boards/link-limits';
import { asErrorPage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import { calendarByToken } from '$server/rotas/calendar-links';
import type { RequestHandler } from './$types';

/** The calendar of a secret address, for programs that subscribe to it. */
export const GET: RequestHandler = async ({ params: { token }, locals }) => {
  const { db, clock } = bussola();
  const text = await calendarByToken(db, token.replace(/\.ics$/, ''), clock.now());
  if (text === null) {
    await countMiss(locals.address).catch(asErrorPage);
    return new Response('There is no such calendar. Its address may have been removed.\n', {
      status: 404,
      headers: { 'content-type': 'text/plain; charset=utf-8' }
    });
  }
  return new Response(text, {
    headers: {
      'content-type': 'text/calendar; charset=utf-8',
      'cache-control': 'private, max-age=300',
      'content-disposition': 'inline; filename="bussola.ics"'
    }
  });
};
