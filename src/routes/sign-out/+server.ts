import { redirect } from '@sveltejs/kit';
import { sessionCookie } from '$server/http/cookie';
import { endSession, sessionKey } from '$server/people/sessions';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ cookies }) => {
  const { db, changes } = bussola();
  const token = cookies.get(sessionCookie);
  if (token !== undefined) {
    await endSession(db, token);
    changes.tell('session', { key: sessionKey(token) });
  }
  cookies.delete(sessionCookie, { path: '/' });
  redirect(303, '/sign-in');
};
