import type { Cookies } from '@sveltejs/kit';
import { linkLengths } from '../people/links';
import { sessionLength } from '../people/sessions';

export const sessionCookie = 'bussola-session';
/** Of a sign-in that lacks its second factor. */
export const halfCookie = 'bussola-half';
/** Of somebody who left for another service to sign in there. */
export const leavingCookie = 'bussola-leaving';
/** How long somebody may take there, seconds. */
const leavingSeconds = 900;

const hidden = { httpOnly: true, sameSite: 'lax' } as const;

/** Sets the cookie of a session: out of reach of scripts, not sent by other sites' forms, over TLS only when Bussola itself is. */
export function setSessionCookie(cookies: Cookies, token: string, secure: boolean): void {
  cookies.set(sessionCookie, token, { ...hidden, path: '/', secure, maxAge: sessionLength / 1000 });
}

/** Sets the cookie of half a sign-in, which is sent to the pages of the sign-in alone. */
export function setHalfCookie(cookies: Cookies, token: string, secure: boolean): void {
  cookies.set(halfCookie, token, { ...hidden, path: '/sign-in', secure, maxAge: linkLengths.factor / 1000 });
}

/** Sets the cookie of somebody who leaves for another service. @param sealed what is remembered, sealed */
export function setLeavingCookie(cookies: Cookies, sealed: Buffer, secure: boolean): void {
  const value = sealed.toString('base64url');
  cookies.set(leavingCookie, value, { ...hidden, path: '/sign-in', secure, maxAge: leavingSeconds });
}
