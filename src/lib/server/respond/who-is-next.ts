import { dueMessages, namesIn, nextDue, personOf, targetText } from '$lib/core/notify/route';
import { after, day, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { rotasWithOverrides } from '../rotas/rotas';
import { routingChoices } from '../routing/routing-choices';
import { routeById } from '../routing/routes';
import type { Incident } from '../incidents/incidents';
import { contactsNow, reachOf, recipientsOf } from './recipients';
import { threadsOf } from './threads';

/** Somebody who is notified next, if nothing happens. */
export interface NextNotified {
  readonly at: Instant;
  /** Whom the route names. */
  readonly who: string;
  /** Who that is then; null for channels, and when nobody is on call. */
  readonly person: string | null;
  readonly why: 'news' | 'step' | 'repeat' | 'digest';
  readonly isReached: boolean;
  /** Until when whoever would be reached is not disturbed; null when somebody is reached at once, or nobody at all. */
  readonly quietUntil: Instant | null;
}

/** Messages that are named, and how far ahead. */
const mostNamed = 6;

/** Who is notified next of an incident, and by which route, if nobody acknowledges and nothing changes. */
export async function whoIsNext(
  db: Queryable,
  { id: incidentId, severity }: Pick<Incident, 'id' | 'severity'>,
  now: Instant
): Promise<{
  readonly routes: readonly { readonly id: number; readonly name: string }[];
  readonly next: readonly NextNotified[];
}> {
  const threads = await threadsOf(db, incidentId);
  if (threads.length === 0) return { routes: [], next: [] };
  const [choices, contacts, rotas] = await Promise.all([
    routingChoices(db),
    contactsNow(db, now),
    rotasWithOverrides(db, now, after(now, day))
  ]);
  const names = namesIn(choices);
  const next: NextNotified[] = [];
  const routes: { id: number; name: string }[] = [];
  for (const { thread: stored, routeId } of threads) {
    const known = await routeById(db, routeId);
    if (known === null) continue;
    routes.push({ id: known.id, name: known.route.name });
    let thread = stored;
    for (let made = 0; made < mostNamed; made++) {
      const at = nextDue(thread, known.route);
      if (at === null || at > after(now, day)) break;
      const due = dueMessages(thread, known.route, at);
      thread = due.thread;
      for (const { why, to } of due.messages)
        for (const target of to) {
          const personId = personOf(target, at, rotas);
          next.push({
            ...{ at, why, who: targetText(target, names) },
            person: personId === null ? null : names.person(personId),
            ...reachOf(recipientsOf([target], { ...contacts, at, rotas }, severity))
          });
        }
    }
  }
  return { routes, next: next.sort((a, b) => a.at - b.at).slice(0, mostNamed) };
}
