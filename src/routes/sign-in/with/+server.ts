import { redirect } from '@sveltejs/kit';
import { addressWithin } from '$server/http/address-within';
import { setLeavingCookie } from '$server/http/cookie';
import { asErrorPage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Leaves for the service that signs people in. */
export const GET: RequestHandler = async ({ cookies, url }) => {
  const { issuer, secrets, origin } = bussola();
  if (issuer === null) redirect(303, '/sign-in');
  const { url: there, leaving } = await issuer
    .leave(addressWithin(url.searchParams.get('to'), origin))
    .catch(asErrorPage);
  setLeavingCookie(cookies, secrets.seal(JSON.stringify(leaving)), origin.startsWith('https:'));
  redirect(303, there);
};
