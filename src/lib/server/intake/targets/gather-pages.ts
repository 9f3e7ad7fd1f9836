import { isRefused } from '$lib/core/problem/problem';
import type { Received, RefusedPoints } from '$lib/core/receive';
import type { FoundEvent } from '../../providers/port/provider';
import { saveEvent } from '../events/events';
import { storeDescribed, type Receiver } from '../receive/receive';
import { pagesProvider } from '../../inventory/self-described';
import type { PageAccount } from './page-accounts';
import { targetMetrics } from './target-metrics';
import { noteReadings, type TargetReading } from './target-states';

/** The service of what is read from pages, and the type of their resources. */
export const targetsService = 'targets';
export const targetType = 'target';

/** A page that was read, with what is to be stored of it. */
export interface GatheredPage {
  readonly reading: TargetReading;
  readonly received: Received;
}

/**
 * Gathers what pages of one account gave and stores it together: many small writes would take longer than one.
 *
 * @example gather.add(page); await gather.flush()
 */
export class PageGatherer {
  readonly #receiver: Receiver;
  #account: PageAccount;
  #pages: GatheredPage[] = [];
  #flushing: Promise<void> | null = null;

  constructor(receiver: Receiver, account: PageAccount) {
    this.#receiver = receiver;
    this.#account = account;
  }

  /** Pages that wait to be stored. */
  get length(): number {
    return this.#pages.length;
  }

  set account(account: PageAccount) {
    this.#account = account;
  }

  add(page: GatheredPage): void {
    this.#pages.push(page);
  }

  /** Stores what has been gathered; while that is under way, what comes waits for the next time. */
  flush(): Promise<void> {
    if (this.#pages.length === 0 && this.#flushing === null) return Promise.resolve();
    this.#flushing ??= this.#store().finally(() => (this.#flushing = null));
    return this.#flushing;
  }

  async #store(): Promise<void> {
    const pages = this.#pages;
    this.#pages = [];
    if (pages.length === 0) return;
    const { id, name, definition } = this.#account;
    const every = definition.everySeconds * 1000;
    try {
      await storeDescribed(
        this.#receiver,
        {
          ...{ accountId: id, kind: 'account', name, mostSeries: definition.mostSeries },
          ...{ provider: pagesProvider, service: targetsService, resourceType: targetType },
          ...{ samplingMs: every, delayMs: every, titles }
        },
        together(pages.map(({ received }) => received))
      );
    } catch (error) {
      if (!isRefused(error, 'disk-low')) throw error; // the account's page says it for all accounts
    } finally {
      await this.#note(pages.map(({ reading }) => reading));
    }
  }

  /** Notes how reading went, and that a page turned up or down as an event of it: what is raised by it says why. */
  async #note(readings: readonly TargetReading[]): Promise<void> {
    const { db } = this.#receiver;
    const { id } = this.#account;
    await db.transaction(async (within) => {
      for (const turned of await noteReadings(within, id, readings)) await saveEvent(within, id, eventOf(turned));
    });
  }
}

const titles = Object.fromEntries(Object.entries(targetMetrics).map(([name, { title }]) => [name, title]));

const eventOf = ({ name, isUp, readAt, problem }: TargetReading): FoundEvent => ({
  ...{ id: `${name}/${readAt}`, resource: name, at: readAt, subject: {} },
  kind: isUp ? 'page up' : 'page down',
  text: isUp ? `${name} can be read again.` : `${name} cannot be read: ${problem ?? ''}`
});

/** What several pages gave, as if it were one. */
export function together(all: readonly Received[]): Received {
  const refused = new Map<string, RefusedPoints>();
  for (const one of all.flatMap((received) => received.refused)) {
    const known = refused.get(one.reason);
    refused.set(one.reason, known === undefined ? one : { ...known, count: known.count + one.count });
  }
  return {
    series: all.flatMap(({ series }) => series),
    refused: [...refused.values()],
    faults: [...new Set(all.flatMap(({ faults }) => faults))].slice(0, 20)
  };
}
