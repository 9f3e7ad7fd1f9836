import { Refusal } from '$lib/core/problem/problem';
import type { SecretBox } from '../base/secrets';
import type { Context } from '../db/context';
import { acknowledgeWithin } from '../incidents/acknowledge';
import { incidentsByIds, type Incident } from '../incidents/incidents';
import { messageOfToken } from '../notify/acknowledge-links';
import { acknowledgedBy, useLink } from '../notify/outbox';

interface LinkContext extends Context {
  readonly secrets: SecretBox;
}

/** What the link of a message leads to. */
export interface LinkedMessage {
  readonly messageId: number;
  /** The message in one line. */
  readonly subject: string;
  /** Whoever received it. */
  readonly by: string;
  readonly isUsed: boolean;
  /** All that it is about. */
  readonly incidentIds: readonly number[];
  /** As many of them as a page shows. */
  readonly incidents: readonly Incident[];
}

/** Looks at what a link leads to, and changes nothing: programs follow links as well. @throws Refusal `not-found` for a link that never was, or is too old */
export async function linkedMessage({ db, secrets, clock }: LinkContext, token: string): Promise<LinkedMessage> {
  const found = messageOfToken(secrets, token, clock.now());
  const message = found === null ? null : await acknowledgedBy(db, found.messageId);
  if (found === null || message === null)
    throw new Refusal(
      'not-found',
      'This is no link of Bussola.',
      'Open it as it stands in the message, or sign in and find the incident.'
    );
  if (found.kind === 'expired')
    throw new Refusal(
      'not-found',
      'This link has expired.',
      'It is good for two days. Sign in to acknowledge the incident.'
    );
  return {
    ...{ messageId: found.messageId, subject: message.subject, by: message.by, isUsed: message.usedAt !== null },
    incidentIds: message.incidentIds,
    incidents: await incidentsByIds(db, message.incidentIds.slice(0, mostShown))
  };
}

/** Incidents that the page of a link shows. */
const mostShown = 50;

/**
 * Acknowledges the incidents of a message in the name of whoever received it; once for each link.
 *
 * @param person who is signed in where the link is opened; null for nobody
 * @throws Refusal as {@link linkedMessage} does, `not-allowed` when it was used before
 */
export async function acknowledgeByLink(context: LinkContext, token: string, person: string | null): Promise<void> {
  const { db, clock, changes } = context;
  const { messageId, by, incidentIds } = await linkedMessage(context, token);
  const at = clock.now();
  const alarmIds = await db.transaction(async (within) => {
    if (!(await useLink(within, messageId, at)))
      throw new Refusal('not-allowed', 'This link was used already.', 'Sign in to change who looks after it.');
    return acknowledgeWithin(within, incidentIds, at, person ?? by);
  });
  for (const alarmId of alarmIds) changes.tell('alarm', { alarmId });
}
