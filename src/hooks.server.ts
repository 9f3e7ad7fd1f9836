import { Refusal } from '$lib/core/problem/problem';
import { subscribe } from 'node:diagnostics_channel';
import type { ServerResponse } from 'node:http';
import {
  isRedirect,
  json,
  redirect,
  type Handle,
  type HandleServerError,
  type RequestEvent,
  type ServerInit
} from '@sveltejs/kit';
import { building } from '$app/environment';
import { env } from '$env/dynamic/private';
import { SpanStatusCode } from '@opentelemetry/api';
import { unstorable, mendedText } from '$lib/core/forms/storable';
import { isForeignForm, isForm } from '$server/http/foreign-form';
import { mayUse, takesKey } from '$server/http/access';
import { pageActOf, recordPageAct, type PageAct } from '$server/audit/record-page-act';
import { configFrom } from '$server/base/config';
import { secretsOf } from '$server/base/setting-names';
import { count, timed } from '$server/base/own-counters';
import { withoutSecrets } from '$server/base/without-secrets';
import { sessionOf } from '$server/people/sessions';
import { permitSheet, withoutStyleAttributes } from '$server/http/style-attributes';
import { problemResponse } from '$server/http/problem';
import { chosenNight } from '$server/http/theme';
import { bussola, setRunning } from '$server/process/running';
import { startBussola } from '$server/process/start';
import { sessionCookie } from '$server/http/cookie';

export const init: ServerInit = async () => {
  if (building) return;
  // Static files do not come through here: every answer of this process is taken for what it says it is.
  subscribe('http.server.request.start', (message) => {
    (message as { response: ServerResponse }).response.setHeader('x-content-type-options', 'nosniff');
  });
  try {
    const started = await startBussola(configFrom(env), (error) => fail(error));
    setRunning(started);
    // Whoever started this process with a channel to it, as the demo does, takes it along when gone.
    if (process.connected) process.once('disconnect', () => process.kill(process.pid, 'SIGTERM'));
    process.once('sveltekit:shutdown', () => {
      setRunning(null);
      void started.close().then(() => process.exit(), fail);
    });
  } catch (error) {
    fail(error);
  }
};

/** Ends the process with words a person can use. */
function fail(error: unknown): never {
  const reply =
    error instanceof Refusal
      ? `${error.message}\n${error.remedy}`
      : error instanceof Error
        ? (error.stack ?? error.message)
        : String(error);
  process.stderr.write(withoutSecrets(secretsOf(env))(`Bussola cannot go on.\n${reply}\n`));
  process.exit(1);
}

export const handle: Handle = async (asked) => {
  // Whoever opens a page, or has it brought up to date, waits for it: what can wait lets them go first.
  const isWaiting = asked.event.request.method === 'GET' && (isPage(asked.event) || asked.event.isDataRequest);
  const answered = isWaiting ? bussola().readers.begin() : null;
  try {
    const { event } = asked;
    const { method } = event.request;
    const response = await timed(
      'requests',
      async (span) => {
        // Whoever is sent elsewhere is answered: nothing failed.
        const answer = await Promise.resolve(answerTo(asked)).catch((thrown: unknown) => {
          if (isRedirect(thrown)) return thrown;
          throw thrown;
        });
        const route = routeOf(event);
        span.updateName(`${method} ${route}`);
        span.setAttributes({ 'http.route': route, 'http.response.status_code': answer.status });
        if (answer.status >= 500) span.setStatus({ code: SpanStatusCode.ERROR });
        return answer;
      },
      {
        attributes: { 'http.request.method': method },
        slow: () => ({ kind: 'requests', key: `${method} ${routeOf(event)}` })
      }
    );
    if (isRedirect(response)) throw response;
    if (response.status >= 500 && response.status !== 503) count('requests.failed');
    return response;
  } finally {
    answered?.();
  }
};

/** Which route a request is for, without what differs from one to the next; of the API, its operation. */
const routeOf = ({ route: { id }, locals: { operation } }: RequestEvent): string =>
  operation ?? (id === null ? 'nothing that is there' : id.replace('/(app)', '') || '/');

const answerTo: Handle = async ({ event, resolve }) => {
  const { origin } = bussola();
  const refused = await refusedBy(event);
  const night = chosenNight(event.cookies) === true;
  let nonce: string | null = null;
  // What cannot be read is no act; what the role does not allow, or another site sent, is one that was refused.
  const act = refused === null || refused.status === 403 ? await actOf(event) : null;
  const response =
    refused ??
    (await resolve(event, {
      transformPageChunk: ({ html }) => {
        const styled = withoutStyleAttributes(html.replace('%bussola.theme%', night ? 'dark' : ''));
        nonce ??= styled.nonce;
        return styled.html;
      }
    }));
  if (act !== null) await recorded(event, act, response);
  const policy = response.headers.get('content-security-policy');
  if (policy !== null && nonce !== null) response.headers.set('content-security-policy', permitSheet(policy, nonce));
  for (const [name, value] of Object.entries(securityHeaders)) response.headers.set(name, value);
  if (origin.startsWith('https:')) response.headers.set('strict-transport-security', 'max-age=31536000');
  // What one person sees is nobody else's, and not there any more once they have signed out.
  if (!response.headers.has('cache-control')) response.headers.set('cache-control', 'private, no-store');
  return response;
};

/** What a page is asked to do, of what is recorded. */
async function actOf(event: RequestEvent): Promise<PageAct | null> {
  if (event.request.method !== 'POST' || event.url.pathname.startsWith('/api/')) return null;
  const fields = isForm(event.request) ? [...(await formOf(event.request))] : [];
  return pageActOf(bussola().db, event, actionOf(event), fields.find(([name]) => name === 'id')?.[1]);
}

/** What was done is done: that it could not be written down is an error of Bussola's, not of who did it. */
async function recorded(event: RequestEvent, act: PageAct, response: Response): Promise<void> {
  const { db, clock, log } = bussola();
  await recordPageAct(db, clock, event, act, response).catch((error: unknown) =>
    log.error({ err: error, act: act.act }, 'what was done could not be recorded')
  );
}

const securityHeaders: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'same-origin',
  'permissions-policy':
    'accelerometer=(), camera=(), display-capture=(), geolocation=(), gyroscope=(), magnetometer=(), microphone=(), midi=(), payment=(), usb=()'
};

/** What a process that only works answers all the same: how it is. */
const ofEngines: ReadonlySet<string> = new Set(['/healthz', '/readyz', '/metrics']);

/** Checks who requests what. @returns the answer when it is refused; null when it may go on */
async function refusedBy(event: RequestEvent): Promise<Response | null> {
  const { db, clock, config, addressOf } = bussola();
  const { request, locals, route } = event;
  locals.address = addressOf(event.getClientAddress(), request.headers.get('x-forwarded-for'));
  const token = event.cookies.get(sessionCookie);
  locals.session = token === undefined ? null : await sessionOf(db, token, clock.now());
  locals.person = locals.session?.person ?? null;
  const id = route.id ?? '';
  if (config.role === 'engine' && !ofEngines.has(id))
    return refuse(
      event,
      new Refusal(
        'not-found',
        'This process works by itself: it serves neither pages nor programs.',
        'Ask a process whose BUSSOLA_ROLE is web or all.'
      )
    );
  const hasKey = request.headers.has('authorization'); // which no other site can make a browser send
  // A mail program leaves a topic by a POST of its own (RFC 8058): the link alone is what permits it.
  const isLeaving = id === '/leave/[token]';
  if (!hasKey && !isLeaving && !takesKey(event.url.pathname) && isForeignForm(request, config.origins))
    return refuseForeign(event);
  const why = await unusableText(event);
  if (why !== null) return refuse(event, new Refusal('invalid', why, 'Correct it and try again.'));
  if (route.id === null) return null;
  const verdict = mayUse(id, request.method, locals.person?.role ?? null, actionOf(event));
  if (verdict === 'yes') return null;
  const isRead = request.method === 'GET' && (isPage(event) || event.isDataRequest);
  const here = encodeURIComponent(event.url.pathname + event.url.search);
  if (verdict === 'sign in') {
    if (isRead) redirect(303, `/sign-in?to=${here}`);
    return refuse(
      event,
      new Refusal('not-signed-in', 'You are not signed in, or your session has ended.', 'Sign in, then try again.')
    );
  }
  if (isRead && locals.person !== null && id.startsWith('/(app)')) redirect(303, `/refused?at=${here}`);
  return refuse(
    event,
    new Refusal(
      'not-allowed',
      `Your role (${locals.person?.role ?? 'none'}) does not allow this.`,
      'Ask an administrator of this workspace.'
    )
  );
}

const isPage = ({ request }: RequestEvent): boolean => request.headers.get('accept')?.includes('text/html') ?? false;

/** The action of a page that is requested, as SvelteKit finds it. */
const actionOf = ({ url }: RequestEvent): string | null =>
  [...url.searchParams.keys()].find((name) => name.startsWith('/'))?.slice(1) ?? null;

/** Why text in an address or a form cannot be stored, in words; null when it can. */
async function unusableText({ url, request }: RequestEvent): Promise<string | null> {
  for (const text of [decoded(url.pathname), ...[...url.searchParams].flat()]) {
    const why = text === null ? 'cannot be read' : unstorable(text);
    if (why !== null) return `The address ${why}.`;
  }
  if (!isForm(request) || takesKey(url.pathname)) return null;
  for (const [name, value] of await formOf(request)) {
    const why = unstorable(name) ?? (typeof value === 'string' ? unstorable(value) : null);
    if (why !== null) return `What was entered as ${mendedText(name).slice(0, 40)} ${why}.`;
  }
  return null;
}

function decoded(path: string): string | null {
  try {
    return decodeURIComponent(path);
  } catch (error) {
    if (error instanceof URIError) return null;
    throw error;
  }
}

/** The form of a request, of which the route reads its own copy; nothing of one that cannot be read, which the route says. */
async function formOf(request: Request): Promise<Iterable<[string, unknown]>> {
  try {
    return await request.clone().formData();
  } catch (error) {
    if (error instanceof TypeError || (error as { status?: unknown }).status === 413) return [];
    throw error;
  }
}

function refuseForeign(event: RequestEvent): Response {
  const { origin } = bussola();
  const from = event.request.headers.get('origin') ?? '';
  const where = from === '' || from === 'null' ? 'a page that does not say where it is' : from.slice(0, 100);
  return refuse(
    event,
    new Refusal(
      'not-allowed',
      `The form was sent from ${where}, and this Bussola is at ${origin}.`,
      `Open ${origin} and try again there.`
    )
  );
}

/** A refusal in the form in which it was asked: of a form on a page, of a page, or of a program. */
function refuse(event: RequestEvent, refusal: Refusal): Response {
  const { status, message, remedy } = refusal;
  if (event.request.headers.get('x-sveltekit-action') === 'true')
    return json({ type: 'error', status, error: { message, remedy } }, { status });
  if (isPage(event) && !event.isDataRequest && !event.url.pathname.startsWith('/api'))
    return new Response(`${message}\n${remedy}\n`, {
      status,
      headers: { 'content-type': 'text/plain; charset=utf-8' }
    });
  return problemResponse(refusal);
}

export const handleError: HandleServerError = ({ error, event, status }) => {
  if (status === 404) return { message: 'There is no such page.', remedy: 'Check the address, or start from Watch.' };
  bussola().log.error({ err: error, path: event.url.pathname }, 'unexpected');
  return {
    message: 'Bussola could not do this.',
    remedy: 'Nothing was lost. Try again. If it continues, see Bussola’s log.'
  };
};
