import type { Cookies } from '@sveltejs/kit';
import { sessionLength } from '../people/sessions';

export const sessionCookie = 'bussola-session';

/** Sets the cookie of a session: out of reach of scripts, not sent by other sites' forms, over TLS only when Bussola itself is. */
export function setSessionCookie(cookies: Cookies, token: string, secure: boolean): void {
  cookies.set(sessionCookie, token, {
    path: '/',
    httpOnly: true,
    sameSite: 'lax',
    secure,
    maxAge: sessionLength / 1000
  });
}
