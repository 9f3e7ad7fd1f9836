import { channelKindWords, type SentKind, type MessageContent } from '$lib/core/notify';
import { formOf } from '$lib/core/words/count';
import { before, minute, times, type Instant } from '$lib/core/time';
import type { Database, Queryable } from '../db/pool';
import { deafKinds, kindsThatFail, noteDeaf, noteHearing, type FailingKind } from '../notify/deaf-kinds';
import { allRoutes } from '../routing/routes';
import type { Notifier } from './notify-of-events';
import { contactsNow, recipientsOf, type Recipient } from './recipients';

/** Messages that nobody has taken for so long mean that their kind of channel does not work. */
const patience = times(2, minute);
/** That Bussola cannot notify people leaves before all else. */
const mostUrgent = 60;

/**
 * Checks whether Bussola itself can notify people: when nothing leaves by a kind of channel, everybody whom the last route names, and every administrator, is notified by those that work; again when it works again. Once for each
 * time, however many processes check.
 */
export async function checkDelivery({ db, clock, delivery }: Notifier & { readonly db: Database }): Promise<void> {
  const now = clock.now();
  const failing = await kindsThatFail(db, before(now, patience));
  const known = await deafKinds(db);
  if (failing.length === 0 && known.length === 0) return;
  const fresh = failing.filter(({ kind }) => !known.some((one) => one.kind === kind));
  const mended = known.filter(({ kind }) => !failing.some((one) => one.kind === kind));
  if (fresh.length === 0 && mended.length === 0) return;
  const deaf: readonly string[] = failing.map(({ kind }) => kind);
  await db.transaction(async (within) => {
    const notes: MessageContent[] = [];
    for (const one of fresh) if (await noteDeaf(within, one.kind, one.since)) notes.push(deafNote(one));
    for (const { kind, since } of mended) if (await noteHearing(within, kind)) notes.push(hearingNote(kind, since));
    const recipients = await whoMinds(within, deaf, now);
    for (const content of notes)
      for (const { channelId, personId } of recipients)
        await delivery.enqueue(within, {
          ...{ channelId, personId, content, priority: mostUrgent, createdAt: now, incidentId: null, alarmId: null }
        });
  });
}

/** Everybody whom the last route names in any step, and administrators by their own channels, of the kinds that work. */
async function whoMinds(within: Queryable, deaf: readonly string[], now: Instant): Promise<Recipient[]> {
  const contacts = await contactsNow(within, now);
  const last = (await allRoutes(within)).find(({ isLast }) => isLast);
  const ofRoute = recipientsOf(last?.route.steps.flatMap(({ notify }) => notify) ?? [], contacts, null);
  const administrators = contacts.people.filter(({ role }) => role === 'administrator').map(({ id }) => id);
  const byId = new Map(contacts.channels.map((channel) => [channel.id, channel]));
  const own = contacts.channels
    .filter(({ personId, confirmedAt }) => confirmedAt !== null && administrators.includes(personId ?? 0))
    .map(({ id, personId }) => ({ channelId: id, personId, holdUntil: null }));
  const all = new Map([...ofRoute, ...own].map((one) => [one.channelId, one]));
  return [...all.values()].filter(({ channelId }) => {
    const kind = byId.get(channelId)?.kind;
    return kind !== undefined && !deaf.includes(kind);
  });
}

const namesOf = (kind: SentKind): string => `${channelKindWords[kind]}s`;

const deafNote = ({ kind, since, waiting, reason }: FailingKind): MessageContent => ({
  kind: 'note',
  subject: `Bussola cannot send ${namesOf(kind)}`,
  sentence: `Nothing has left by ${channelKindWords[kind]} for a while: whoever is notified by it alone hears nothing. ${waiting} ${formOf(waiting, 'message waits', 'messages wait')} and ${formOf(waiting, 'is', 'are')} tried again.`,
  rows: [
    { name: 'Since', at: since },
    { name: 'Why', text: reason.slice(0, 300) }
  ],
  path: '/outbox?state=queued',
  linkText: 'See what waits in Bussola'
});

const hearingNote = (kind: SentKind, since: Instant): MessageContent => ({
  kind: 'note',
  subject: `Bussola can send ${namesOf(kind)} again`,
  sentence: `What waited by ${channelKindWords[kind]} has left, or leaves now.`,
  rows: [{ name: 'Failed since', at: since }],
  path: '/outbox',
  linkText: 'See the messages in Bussola'
});

/** Kinds by which nothing leaves now, and whether any other is used at all. */
export async function whatWorks(db: Queryable): Promise<{
  readonly deaf: readonly { readonly kind: SentKind; readonly since: Instant }[];
  readonly anyWorks: boolean;
}> {
  const deaf = await deafKinds(db);
  if (deaf.length === 0) return { deaf, anyWorks: true };
  const used = await db.rows<{ kind: SentKind }>('select distinct kind from channels where confirmed_at is not null');
  return { deaf, anyWorks: used.some(({ kind }) => !deaf.some((one) => one.kind === kind)) };
}
