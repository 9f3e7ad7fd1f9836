import { redirect } from '@sveltejs/kit';
import { leavingCookie } from '$server/http/cookie';
import { asErrorPage } from '$server/http/pages';
import { Refusal } from '$lib/core/problem/problem';
import { bussola } from '$server/process/running';
import { leavingFrom } from '$server/workspace/issuer';
import { goOn, recordSignIn, signInFrom } from '$server/workspace/let-in';
import type { RequestHandler } from './$types';

/** Comes back from the service that signs people in. */
export const GET: RequestHandler = async (event) => {
  const { cookies, url } = event;
  const server = bussola();
  const { issuer, secrets, db, signIn, clock } = server;
  const leaving = leavingFrom(secrets, cookies.get(leavingCookie));
  cookies.delete(leavingCookie, { path: '/sign-in' });
  if (issuer === null || leaving === null) redirect(303, '/sign-in');
  const from = signInFrom(event);
  const how = `Signs in by ${issuer.name}`;
  const person = await issuer.arrive(db, url, leaving).catch(async (error: unknown) => {
    if (error instanceof Refusal) await recordSignIn(server, { kind: 'wrong' }, '', from, how);
    return asErrorPage(error);
  });
  const result = await signIn.withIssuer(db, person, from, clock.now());
  await recordSignIn(server, result, person.name, from, how);
  if (result.kind === 'signed in' || result.kind === 'second factor') return goOn(server, cookies, result, leaving.to);
  redirect(303, '/sign-in');
};
