import { inOwnWords, messageOf, shortText, type Message, type MessageTemplates } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import type { Clock, Dates } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { incidentById } from '../incidents/incidents';
import { refuseUnusable } from '../notify/message-templates';
import { contentOf } from './content';

/** How a message about an incident reads, in a mail and on a telephone. */
export interface WordsPreview {
  readonly mail: Message;
  readonly short: string;
}

/**
 * How the message that an incident was raised would read in the words of some templates. Its links lead nowhere.
 *
 * @throws Refusal `not-found`; `invalid` for words that cannot be used
 */
export async function previewWords(
  { db, clock, origin }: { readonly db: Queryable; readonly clock: Clock; readonly origin: string },
  templates: MessageTemplates,
  incidentId: number,
  dates: Dates
): Promise<WordsPreview> {
  refuseUnusable(templates);
  const incident = await incidentById(db, incidentId);
  const news = [{ incidentId, kind: 'opened', at: incident?.openedAt ?? clock.now() }] as const;
  const made =
    incident === null
      ? null
      : await contentOf(
          db,
          { group: { by: 'incident', wait: 0, atMostEvery: 0 } },
          { why: 'news', at: clock.now(), to: [], news, open: [incidentId] },
          [],
          true
        );
  if (made === null)
    throw new Refusal('not-found', 'There is no such incident, or its alarm was removed.', 'Choose another one.');
  const acknowledge = `${origin}/a/…`;
  const now = incident?.openedAt ?? clock.now();
  const message = messageOf(made.content as Extract<typeof made.content, { kind: 'incident' }>, {
    ...{ zone: dates, now, origin, acknowledge }
  });
  return {
    mail: inOwnWords(message, made.content, templates, { dates, now, short: false }),
    short: shortText(inOwnWords(message, made.content, templates, { dates, now, short: true }))
  };
}
