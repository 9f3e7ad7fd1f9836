import { redirect } from '@sveltejs/kit';
import { sessionCookie } from '$server/people/cookie';
import { endSession } from '$server/people/sessions';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ cookies }) => {
  const token = cookies.get(sessionCookie);
  if (token !== undefined) await endSession(bussola().db, token);
  cookies.delete(sessionCookie, { path: '/' });
  redirect(303, '/sign-in');
};
