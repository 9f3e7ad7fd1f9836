import { redirect, type Cookies, type RequestEvent } from '@sveltejs/kit';
import { recordAct } from '../audit/acts';
import { noSubject } from '../audit/subjects';
import { addressWithin } from '../http/address-within';
import { halfCookie, sessionCookie, setHalfCookie, setSessionCookie } from '../http/cookie';
import { endSession, sessionKey, type SignInFrom } from '../people/sessions';
import { isNameOrMail } from '../people/people';
import type { SignInResult } from '../people/sign-in';
import type { Context } from '../db/context';

interface Server extends Context {
  readonly origin: string;
}

/** From where somebody signs in. */
export const signInFrom = ({ locals, request }: RequestEvent): SignInFrom => ({
  address: locals.address,
  agent: request.headers.get('user-agent') ?? ''
});

/**
 * Records how a sign-in ended.
 *
 * @param typed the name, as it was typed
 * @param how in words: `Signs in`
 */
export async function recordSignIn(
  { db, clock }: Pick<Context, 'db' | 'clock'>,
  result: SignInResult | { readonly kind: 'over' },
  typed: string,
  { address }: SignInFrom,
  how = 'Signs in'
): Promise<void> {
  if (result.kind === 'second factor') return; // recorded once it is complete, or fails
  const person = result.kind === 'signed in' ? result.person : null;
  // What is no name may be a password that was typed in the wrong field.
  const known = person === null && typed !== '' && (await isNameOrMail(db, typed)) ? typed : 'an unknown name';
  await recordAct(
    db,
    {
      ...{ at: clock.now(), personId: person?.id ?? null, by: person?.displayName ?? known },
      ...{ means: person === null ? 'nobody' : 'person', act: 'sign-in', what: how, ...noSubject },
      ...{ outcome: person === null ? 'refused' : 'done', address }
    },
    // More tries than are allowed are one act.
    result.kind === 'too many' || result.kind === 'over'
  );
}

/**
 * Goes on after a sign-in that succeeded: to where somebody wanted to go, or to the second factor. Who signs in again leaves no session behind.
 *
 * @param to an address within Bussola, as the browser says it
 */
export async function goOn(
  { db, changes, origin }: Server,
  cookies: Cookies,
  result: Extract<SignInResult, { readonly token: string }>,
  to: string | null
): Promise<never> {
  const secure = origin.startsWith('https:');
  const within = addressWithin(to, origin);
  if (result.kind === 'second factor') {
    setHalfCookie(cookies, result.token, secure);
    redirect(303, `/sign-in/second-factor?to=${encodeURIComponent(within)}`);
  }
  const old = cookies.get(sessionCookie);
  if (old !== undefined) {
    await endSession(db, old);
    changes.tell('session', { key: sessionKey(old) });
  }
  if (cookies.get(halfCookie) !== undefined) cookies.delete(halfCookie, { path: '/sign-in' });
  setSessionCookie(cookies, result.token, secure);
  redirect(303, within);
}
