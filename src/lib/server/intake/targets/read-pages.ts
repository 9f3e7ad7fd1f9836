import type { Logger } from 'pino';
import { nextAfter, phaseOf } from '$lib/core/targets';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { count } from '../../base/own-counters';
import type { Config } from '../../base/config';
import type { SecretBox } from '../../base/secrets';
import { accountDuty, type Duties } from '../../duties/duties';
import { noteDiscovery } from '../../inventory/accounts';
import { saveDiscovered } from '../../inventory/resources';
import { beginCollections } from '../ledger/collections';
import type { Receiver } from '../receive/receive';
import { pageCaller, type PageCaller } from './call-page';
import { PageGatherer, targetsService, targetType } from './gather-pages';
import { listPages, type ListedPage } from './list-pages';
import { pageAccounts, type PageAccount } from './page-accounts';
import { readTarget, type PageReader } from './read-target';
import { saveTargets } from './target-states';

/** What reading pages works with. */
export interface PageParts extends Receiver, PageReader {
  readonly secrets: SecretBox;
  readonly config: Pick<Config, 'reach' | 'targetFolder'>;
  readonly log: Logger;
  /** Which accounts are this process's to read. */
  readonly duties: Duties;
}

/** How often, in real time, it is looked which pages are due, and what was read is stored, ms. */
const lookEveryMs = 50;
const storeEveryMs = 500;
/** How often accounts are read again where nothing said that they changed, and lists of other programs and files. */
const accountsEveryMs = 5_000;
const listEvery = 60_000;
/** Pages that are read at the same time, of all accounts and of one, so that one whose pages answer slowly holds up no other; and those that may wait to be stored before no more are begun. */
const mostAtOnce = 256;
const mostOfOne = 64;
const mostWaiting = 4_000;
/** Begun later than this, a page counts as read late, ms. */
const lateAfter = 1_000;

/** An account whose pages are read. */
interface Reading {
  account: PageAccount;
  caller: PageCaller;
  readonly gather: PageGatherer;
  pages: readonly ListedPage[];
  /** When each page is due, by its name. */
  readonly due: Map<string, number>;
  readonly running: Set<string>;
  listing: Promise<void> | null;
  /** Real time before which its list is not read again, whatever came of it, ms. */
  listNotBefore: number;
}

/**
 * Reads the pages of all accounts, each at its own moment of each interval, so that many pages are spread evenly. What is due is decided by the injected clock.
 *
 * @returns what stops it, letting what is under way end and storing it
 */
export function startReadingPages(parts: PageParts): { stop(): Promise<void> } {
  const { db, clock, changes, log } = parts;
  const readings = new Map<number, Reading>();
  const work = new Set<Promise<void>>();
  let inFlight = 0;
  let stopped = false;
  let loading: Promise<void> | null = null;
  let loadAt = 0;
  const changed = () => (loadAt = 0);
  changes.on('pages', changed);

  /** Notes failures that nobody foresaw, and goes on. */
  const begin = (what: string, doing: Promise<void>): Promise<void> => {
    const done = doing.catch((error: unknown) => log.error({ err: error }, what)).finally(() => work.delete(done));
    work.add(done);
    return done;
  };

  async function load(): Promise<void> {
    const known = new Map([...readings.values()].map(({ account }) => [account.stamp, account.definition]));
    const { accounts, unreadable } = await pageAccounts(db, known);
    for (const { id, error } of unreadable)
      log.error({ err: error, accountId: id }, 'an account of pages cannot be read');
    for (const id of readings.keys()) if (!accounts.some((one) => one.id === id)) readings.delete(id);
    for (const account of accounts)
      try {
        take(account);
      } catch (error) {
        // What was saved is checked; one that cannot be read all the same holds up no other.
        log.error({ err: error, accountId: account.id }, 'an account of pages cannot be read');
      }
  }

  function take(account: PageAccount): void {
    const reading = readings.get(account.id);
    if (reading === undefined) {
      readings.set(account.id, fresh(account));
      return;
    }
    if (!isSame(reading.account, account)) {
      reading.caller = callerOf(account);
      reading.due.clear();
      reading.gather.account = account;
    }
    reading.account = account;
  }

  const callerOf = ({ definition, sealedSecret }: PageAccount): PageCaller =>
    pageCaller(parts.config.reach, {
      ...{ signIn: definition.signIn, authority: definition.authority },
      secret: sealedSecret.length === 0 ? '' : parts.secrets.open(sealedSecret)
    });

  const fresh = (account: PageAccount): Reading => ({
    ...{ account, caller: callerOf(account), gather: new PageGatherer(parts, account) },
    ...{ pages: [], due: new Map(), running: new Set(), listing: null, listNotBefore: 0 }
  });

  async function list(reading: Reading, now: Instant): Promise<void> {
    const { id, definition } = reading.account;
    reading.listNotBefore = performance.now() + 1_000;
    try {
      const pages = await listPages(definition, reading.caller, parts.config.targetFolder);
      const found = pages.map(({ name, labels }) => ({
        ...{ providerId: name, name, type: targetType, service: targetsService, region: '', tags: labels },
        ...{ guest: 'none' as const, formerNames: [] }
      }));
      await db.transaction(async (within) => {
        await saveTargets(within, id, pages);
        await saveDiscovered(within, id, found, now);
        await beginCollections(within, id, [targetsService]);
        await noteDiscovery(within, id, now, null);
      });
      reading.pages = pages;
      reading.account = { ...reading.account, listedAt: now };
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      const { code, message, remedy } = error;
      await noteDiscovery(db, id, now, { code, message, remedy, at: now });
      reading.account = { ...reading.account, listedAt: now };
    }
    changes.tell('account', { accountId: id });
  }

  function look(): void {
    if (stopped) return;
    if (performance.now() >= loadAt && loading === null) {
      loadAt = performance.now() + accountsEveryMs;
      loading = begin('accounts of pages could not be read', load()).finally(() => (loading = null));
    }
    const now = clock.now();
    for (const reading of readings.values()) {
      if (parts.duties.held(accountDuty(reading.account.id)) === null) {
        // Another process reads it; once it does not, the list is read anew.
        if (reading.pages.length > 0) reading.due.clear();
        reading.pages = [];
        continue;
      }
      if (isListDue(reading, now))
        reading.listing ??= begin('a list of pages could not be read', list(reading, now)).finally(
          () => (reading.listing = null)
        );
      for (const page of reading.pages)
        if (mayBegin(reading, page, now)) void begin('a page could not be read', read(reading, page));
    }
  }

  function isListDue({ account, pages, listing, listNotBefore }: Reading, now: Instant): boolean {
    if (listing !== null || performance.now() < listNotBefore) return false;
    const { listedAt, definition } = account;
    if (listedAt === null || now < listedAt) return true;
    if (pages.length === 0 && definition.find.by === 'list') return true; // this process has not read it yet
    return (
      definition.find.by !== 'list' && (pages.length === 0 || now - listedAt >= listEvery) && now - listedAt >= 5_000
    );
  }

  /** Whether a page is due and may be begun; then when it is due next is noted. */
  function mayBegin({ account, due, running, gather }: Reading, { name }: ListedPage, now: Instant): boolean {
    const every = account.definition.everySeconds * 1000;
    const phase = phaseOf(name, every);
    const at = due.get(name);
    // Also where the clock was set back.
    if (at === undefined || at > now + every) {
      due.set(name, nextAfter(now, every, phase));
      return false;
    }
    if (
      at > now ||
      running.has(name) ||
      inFlight >= mostAtOnce ||
      running.size >= mostOfOne ||
      gather.length >= mostWaiting
    )
      return false;
    if (now - at > lateAfter) count('pages.late');
    due.set(name, nextAfter(now, every, phase));
    return true;
  }

  async function read({ account, caller, running, gather }: Reading, page: ListedPage): Promise<void> {
    running.add(page.name);
    inFlight++;
    try {
      const gathered = await readTarget(parts, caller, page, account.definition);
      count('pages');
      if (!gathered.reading.isUp) count('pages.failed');
      gather.add(gathered);
    } finally {
      running.delete(page.name);
      inFlight--;
    }
  }

  const store = () => {
    for (const { gather } of readings.values())
      if (gather.length > 0) void begin('what pages gave could not be stored', gather.flush());
  };

  const timers = [setInterval(look, lookEveryMs), setInterval(store, storeEveryMs)];
  return {
    stop: async () => {
      stopped = true;
      timers.forEach(clearInterval);
      changes.off('pages', changed);
      await Promise.all(work);
      await Promise.all([...readings.values()].map(({ gather }) => gather.flush()));
    }
  };
}

/** Whether nothing that matters for reading has changed. */
const isSame = (one: PageAccount, other: PageAccount): boolean =>
  one.name === other.name && one.sealedSecret.equals(other.sealedSecret) && one.stamp === other.stamp;
