import type { RunningApp } from './app';

/** What another program calls the API with: the session of a person, or none. */
export type Call = (method: string, path: string, body?: unknown) => Promise<{ status: number; body: never }>;

/** Calls of a program in the name of a person, who signs in first; null for one that has not. @param path begins after `/api/v1` */
export async function programOf({ origin }: RunningApp, person: string | null): Promise<Call> {
  const cookie = person === null ? '' : await sessionOf(origin, person);
  return async (method, path, body) => {
    const response = await fetch(`${origin}/api/v1${path}`, {
      method,
      headers: {
        cookie,
        origin,
        prefer: 'times=epoch',
        ...(body === undefined ? {} : { 'content-type': 'application/json' })
      },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) })
    });
    const text = await response.text();
    const isJson = response.headers.get('content-type')?.includes('json') ?? false;
    return { status: response.status, body: (isJson ? JSON.parse(text) : text) as never };
  };
}

/** The session of a person who signs in, as a cookie. */
export async function sessionOf(origin: string, name: string): Promise<string> {
  const response = await fetch(`${origin}/sign-in`, {
    method: 'POST',
    headers: { origin },
    body: new URLSearchParams({ name, password: 'corallo-demo' }),
    redirect: 'manual'
  });
  const [cookie] = response.headers.getSetCookie();
  if (cookie === undefined) throw new Error(`${name} could not sign in: ${response.status}`);
  return cookie.split(';')[0] as string;
}
