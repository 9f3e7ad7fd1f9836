import { json, redirect, type Handle, type HandleServerError, type ServerInit } from '@sveltejs/kit';
import { building } from '$app/environment';
import { env } from '$env/dynamic/private';
import { isForeignForm } from '$server/foreign-form';
import { mayUse, takesKey } from '$server/access';
import { configFrom } from '$server/config';
import { personOfSession } from '$server/people/sessions';
import { Refusal } from '$server/refusal';
import { bussola, setRunning } from '$server/running';
import { startBussola } from '$server/start';
import { sessionCookie } from '$server/people/cookie';

export const init: ServerInit = async () => {
  if (building) return;
  try {
    const started = await startBussola(configFrom(env), (error) => fail(error));
    setRunning(started);
    // Whoever started this process with a channel to it, as the demo does, takes it along when gone.
    if (process.connected) process.once('disconnect', () => process.kill(process.pid, 'SIGTERM'));
    process.once('sveltekit:shutdown', () => {
      setRunning(null);
      void started.close().then(() => process.exit(0), fail);
    });
  } catch (error) {
    fail(error);
  }
};

/** Ends the process with words a person can use. */
function fail(error: unknown): never {
  const told =
    error instanceof Refusal
      ? `${error.message}\n${error.remedy}`
      : error instanceof Error
        ? (error.stack ?? error.message)
        : String(error);
  process.stderr.write(`Bussola cannot go on.\n${told}\n`);
  process.exit(1);
}

export const handle: Handle = async ({ event, resolve }) => {
  const { db, clock } = bussola();
  const token = event.cookies.get(sessionCookie);
  event.locals.person = token === undefined ? null : await personOfSession(db, token, clock.now());
  const { pathname, search } = event.url;
  if (isForeignForm(event.request, event.url.origin) && !takesKey(event.route.id ?? ''))
    return json({ message: 'A form of another site cannot be sent here.' }, { status: 403 });
  if (event.route.id !== null) {
    const verdict = mayUse(event.route.id, event.request.method, event.locals.person?.role ?? null);
    const isPage = event.request.headers.get('accept')?.includes('text/html') ?? false;
    if (verdict === 'sign in') {
      if (event.request.method === 'GET' && (isPage || event.isDataRequest))
        redirect(303, `/sign-in?to=${encodeURIComponent(pathname + search)}`);
      return json({ message: 'Sign in first.' }, { status: 401 });
    }
    if (verdict === 'no') return refuse(isPage, event.locals.person?.role);
  }
  const night = event.cookies.get('theme') === 'night';
  const response = await resolve(event, {
    transformPageChunk: ({ html }) => html.replace('%bussola.theme%', night ? 'dark' : '')
  });
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  return response;
};

function refuse(isPage: boolean, role: string | undefined): Response {
  const message = `Your role (${role ?? 'none'}) does not allow this. Ask an administrator of this workspace.`;
  return isPage
    ? new Response(message, { status: 403, headers: { 'content-type': 'text/plain; charset=utf-8' } })
    : json({ message }, { status: 403 });
}

export const handleError: HandleServerError = ({ error, event, status }) => {
  if (status === 404) return { message: 'There is no such page.', remedy: 'Check the address, or begin at Watch.' };
  bussola().log.error({ err: error, path: event.url.pathname }, 'unexpected');
  return {
    message: 'Bussola could not do this.',
    remedy: 'Nothing was lost. Try again; if it goes on, look into Bussola’s log.'
  };
};
