import { signalSchema, signalSentence, type Signal } from '$lib/core/signal';
import { serviceByKey } from '$lib/core/services';
import { before, duration, type Clock, type Instant } from '$lib/core/time';
import { slowKinds, type Slow, type SlowKind, type SlowWork } from '../base/slow-work';
import { boardById } from '../boards/boards';
import type { Queryable } from '../db/pool';
import { allAccounts } from '../inventory/accounts';
import { allMetrics } from '../inventory/metrics';

/** A piece of work that took long, as people read it. */
export interface SlowEntry {
  readonly name: string;
  /** Where it is looked at; empty for nowhere. */
  readonly path: string;
  readonly times: number;
  /** ms, all its times together. */
  readonly total: number;
  readonly mean: number;
  readonly longest: number;
  readonly longestAt: Instant;
}

export type SlowLists = Readonly<Record<SlowKind, readonly SlowEntry[]>>;

/** What a name is for people, with where it is looked at; null for what is not there any more. */
type Named = { readonly name: string; readonly path: string } | null;

/**
 * What took this process longest: panels of boards, other queries, pulls of accounts, requests, and statements of the database.
 *
 * @param by all times together, or the longest one
 * @example (await whatIsSlow({ db, clock }, slowWork, 20, 'total')).panels[0]?.name // 'Processor use on Harbour'
 */
export async function whatIsSlow(
  { db, clock }: { readonly db: Queryable; readonly clock: Clock },
  slow: Pick<SlowWork, 'slowest'>,
  most: number,
  by: 'total' | 'longest'
): Promise<SlowLists> {
  const now = clock.now();
  const namesOf: Record<SlowKind, (all: readonly Slow[]) => Promise<readonly Named[]> | readonly Named[]> = {
    panels: (all) => panelNames(db, all),
    queries: (all) => queryNames(db, all),
    pulls: (all) => pullNames(db, all),
    requests: (all) => all.map(({ key }) => ({ name: key, path: '' })),
    statements: (all) => all.map(({ key }) => ({ name: key.replace(/\s+/g, ' ').trim(), path: '' }))
  };
  const lists = {} as Record<SlowKind, readonly SlowEntry[]>;
  for (const kind of slowKinds) {
    const all = slow.slowest(kind, most, by);
    const names = await namesOf[kind](all);
    lists[kind] = all.flatMap((one, index) => {
      const named = names[index];
      return named ? [{ ...named, ...figuresOf(one, now) }] : [];
    });
  }
  return lists;
}

const figuresOf = ({ times, total, longest, longestAgo }: Slow, now: Instant): Omit<SlowEntry, 'name' | 'path'> => ({
  ...{ times, total, mean: total / times, longest },
  longestAt: before(now, duration(Math.round(longestAgo)))
});

async function panelNames(db: Queryable, all: readonly Slow[]): Promise<Named[]> {
  const ids = [...new Set(all.map(({ about }) => (about as { board: number }).board))];
  const boards = new Map(await Promise.all(ids.map(async (id) => [id, await boardById(db, id)] as const)));
  return all.map(({ about }) => {
    const { board: id, panel } = about as { board: number; panel: string };
    const board = boards.get(id);
    const found = board?.panels.find((one) => one.id === panel);
    if (!board || !found) return null;
    return {
      name: `${found.title} on ${board.title}`,
      path: `/boards/${id}?panel=${encodeURIComponent(panel)}`
    };
  });
}

async function queryNames(db: Queryable, all: readonly Slow[]): Promise<Named[]> {
  if (all.length === 0) return [];
  const metrics = new Map((await allMetrics(db)).map((metric) => [metric.name, metric]));
  return all.map(({ key }) => {
    const signal: Signal = signalSchema.parse(JSON.parse(key));
    return {
      name: signalSentence(signal, (name) => metrics.get(name)),
      path: `/bench?signal=${encodeURIComponent(key)}`
    };
  });
}

async function pullNames(db: Queryable, all: readonly Slow[]): Promise<Named[]> {
  const accounts = new Map((await allAccounts(db)).map((account) => [account.id, account.name]));
  return all.map(({ about }) => {
    const { accountId, service } = about as { accountId: number; service: string };
    const account = accounts.get(accountId);
    if (account === undefined) return null;
    return { name: `${serviceByKey(service)?.title ?? service} of ${account}`, path: `/accounts/${accountId}` };
  });
}
