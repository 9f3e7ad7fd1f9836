import type { RequestEvent } from '@sveltejs/kit';
import { idFrom } from '$lib/core/forms/id';
import type { Clock } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { recordAct, type Means, type Outcome } from './acts';
import { noSubject, subjectOf, type Subject } from './subjects';
import { wordsOfPageAct } from './page-acts';

/** What a page is asked to do, as far as it is recorded. */
export interface PageAct {
  readonly act: string;
  readonly what: string;
  readonly subject: Subject;
}

/**
 * What a form of a page is about to do, with the name of what it does it to, which may be gone afterwards.
 *
 * @param action that the address names
 * @param idInForm of the thing, in the form that was sent
 * @returns null when it is not recorded
 */
export async function pageActOf(
  db: Queryable,
  { route, request, params }: RequestEvent,
  action: string | null,
  idInForm: unknown
): Promise<PageAct | null> {
  if (request.method !== 'POST' || route.id === null) return null;
  const what = wordsOfPageAct(route.id, action ?? 'default');
  if (what === null) return null;
  const kind = route.id.replace(/^\/\(app\)/, '').split('/')[1] ?? '';
  const id = idFrom(params['id'] ?? null) ?? idFrom(typeof idInForm === 'string' ? idInForm : null);
  const subject = id === null ? noSubject : await subjectOf(db, kind, id);
  return { act: `${route.id.replace('/(app)', '') || '/'}${action === null ? '' : `?/${action}`}`, what, subject };
}

/** Records what a page did, once it is known how it ended. */
export async function recordPageAct(
  db: Queryable,
  clock: Clock,
  { locals }: RequestEvent,
  { act, what, subject }: PageAct,
  response: Response
): Promise<void> {
  const { person, address } = locals;
  const { outcome, to } = await endOf(response);
  const means: Means = person !== null ? 'person' : outcome === 'done' ? 'link' : 'nobody';
  await recordAct(
    db,
    {
      ...{ at: clock.now(), personId: person?.id ?? null, by: person?.displayName ?? '', means, act, what },
      ...{ ...(subject.id === null ? await madeBy(db, to) : subject), outcome, address }
    },
    person === null && outcome === 'refused'
  );
}

/** How a form ended, and where it leads; forms that a script sends are answered with what became of them. */
async function endOf(response: Response): Promise<{ readonly outcome: Outcome; readonly to: string | null }> {
  if (response.status >= 400) return { outcome: 'refused', to: null };
  if (!(response.headers.get('content-type') ?? '').includes('application/json'))
    return { outcome: 'done', to: response.headers.get('location') };
  const { type, location = null } = (await response.clone().json()) as { type?: string; location?: string };
  return { outcome: type === 'failure' || type === 'error' ? 'refused' : 'done', to: location };
}

/** What a form made that leads to it. @param to such as `/alarms/3` */
function madeBy(db: Queryable, to: string | null): Promise<Subject> | Subject {
  const [, kind, id] = /^\/([a-z-]+)\/(\d+)(?:$|[?#])/.exec(to ?? '') ?? [];
  return kind === undefined ? noSubject : subjectOf(db, kind, Number(id));
}
