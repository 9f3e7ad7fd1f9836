// events
import { setTimeout as wait } from 'node:timers/promises';
import { mendedText } from '$lib/core/forms/storable';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { accountById, eventCursor, saveEventCursor } from '../../inventory/accounts';
import { eventsService, noteDropped, noteFeeds } from '../ledger/collections';
import { eachAccount } from '../ledger/each-account';
import { accessOf, errorOf, providerOf, type Intake } from '../ledger/intake';
import { ProviderError, type EventFeed, type FoundEvent } from '../../providers/port/provider';

/** Something that happened at a provider. */
export interface ProviderEvent {
  readonly id: number;
  readonly accountId: number;
  readonly account: string;
  readonly resourceId: number | null;
  readonly resource: string | null;
  readonly at: Instant;
  readonly kind: string;
  readonly text: string;
}

/** Events of a half-open range, newest first; of one account or resource when it is given. */
export const eventsIn = (
  db: Queryable,
  from: number,
  to: number,
  only: { readonly accountId?: number; readonly resourceId?: number } = {}
): Promise<ProviderEvent[]> =>
  db.rows<ProviderEvent>(
    `select events.id, events.account_id as "accountId", accounts.name as account, resource_id as "resourceId", resources.name as resource, at, kind, text
     from events
     join accounts on accounts.id = events.account_id
     left join resources on resources.account_id = events.account_id and resources.id = events.resource_id
     where at >= $1 and at < $2 and ($3::integer is null or events.account_id = $3) and ($4::integer is null or resource_id = $4)
     order by at desc
     limit 500`,
    [from, to, only.accountId ?? null, only.resourceId ?? null]
  );

/** Stores an event once, however often it is reported. */
export async function saveEvent(db: Queryable, accountId: number, event: FoundEvent): Promise<void> {
  await db.rows(
    `insert into events (account_id, provider_id, resource_id, at, kind, text, subject)
     select $1, $2, (select id from resources where account_id = $1 and provider_id = $3), $4, $5, $6, $7::jsonb
     where exists (select 1 from accounts where id = $1)
     on conflict (account_id, provider_id) do nothing`,
    [accountId, event.id, event.resource, event.at, event.kind, event.text, JSON.stringify(event.subject)]
  );
}

/** How long until a feed that ended, or broke off, is asked again; real time, since it is about connections. */
const againAfterMs = 5_000;
const longestWaitMs = 60_000;

/**
 * Follows the events of every account whose provider reports them, each feed on its own. A feed that breaks off is taken up again behind the last event that was stored.
 *
 * @example const events = followEvents(intake); events.tick(accounts)
 */
export function followEvents(intake: Intake) {
  const { db, clock, providers, log, changes } = intake;

  async function followAccount(accountId: number, signal: AbortSignal): Promise<void> {
    for (let failures = 0; !signal.aborted;) {
      const account = await accountById(db, accountId);
      if (account === null) return;
      try {
        const access = await accessOf(intake, account);
        const feeds = (await providerOf(providers, account).events?.(access)) ?? [];
        // One feed that fails does not end the others.
        const ended = await Promise.allSettled(feeds.map((feed) => followFeed(accountId, feed, signal)));
        const failed = ended.find((one) => one.status === 'rejected');
        if (failed) throw failed.reason;
        failures = 0;
        await noteFeeds(db, accountId, null, clock.now());
      } catch (error) {
        if (signal.aborted) return;
        failures++;
        if (!(error instanceof ProviderError || error instanceof TypeError))
          log.error({ err: error, accountId }, 'events failed');
        await noteFeeds(db, accountId, errorOf(error, clock.now()), clock.now());
        changes.tell('account', { accountId });
      }
      await wait(Math.min(longestWaitMs, againAfterMs * 2 ** Math.min(failures, 5)), undefined, {
        signal
      }).catch(() => undefined);
    }
  }

  async function followFeed(accountId: number, feed: EventFeed, signal: AbortSignal): Promise<void> {
    const cursor = await eventCursor(db, accountId, feed.name);
    for await (const event of feed.follow(cursor, signal)) {
      if ((await accountById(db, accountId)) === null) return; // removed meanwhile
      if ('why' in event) {
        const example = `${feed.name}: ${event.why}: ${mendedText(event.example)}`;
        await noteDropped(
          db,
          accountId,
          eventsService,
          [{ reason: 'events that cannot be read', count: 1, example }],
          clock.now()
        );
      } else await saveEvent(db, accountId, event);
      if (event.id !== null) await saveEventCursor(db, accountId, feed.name, event.id);
      changes.tell('account', { accountId });
    }
  }

  return eachAccount(intake, (provider) => provider.events !== undefined, followAccount);
}
