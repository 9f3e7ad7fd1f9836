import { overdueSeconds, resourceMetrics, resourceState, resourceStates } from '$lib/core/reachability';
import { before, day, minute, times, type Instant } from '$lib/core/time';
import type { Intake } from '../intake/ledger/intake';
import { storeSeries } from '../intake/ledger/store-series';
import { darkAccounts } from '../intake/own/dark-accounts';
import { ownSample } from '../intake/own/own-account';
import { countedResources, metricsOfResources } from '../intake/own/own-metrics';
import { allAccounts } from '../inventory/accounts';
import { saveMetrics } from '../inventory/metrics';
import { resourcesSeenSince } from '../inventory/resources';
import { seriesOfResources, seriesSignature } from '../inventory/series';
import type { FetchedSeries } from '../providers/port/provider';
import { reportingResources } from './reporting-resources';

/** The series of resources are read again this often, and whenever their number changes: there may be ten thousands. */
const seriesKeptFor = times(10, minute);

type Worker = Pick<Intake, 'db' | 'store' | 'disk' | 'book' | 'providers' | 'changes'>;

/** Measures how resources stand. One for an engine: it remembers which series there are. */
export class ResourceStates {
  readonly #worker: Worker;
  readonly #described = new Set<string>();
  #series: ReturnType<typeof seriesOfResources> | null = null;
  #signature = '';
  #readAt = 0 as Instant;

  constructor(worker: Worker) {
    this.#worker = worker;
  }

  /**
   * Measures whether every resource that a provider lists is up, as one sample of the current minute in its own account. Of an account that is dark nothing is measured: nobody can say what happens there.
   *
   * @returns how many resources of each account stand how, as samples of the own account
   */
  async measure(now: Instant): Promise<FetchedSeries[]> {
    const { db, store, providers, changes } = this.#worker;
    const dark = new Set((await darkAccounts(db, providers, now)).map(({ id }) => id));
    const watched = new Set(
      (await allAccounts(db)).filter(({ id, provider }) => provider in providers && !dark.has(id)).map(({ id }) => id)
    );
    const resources = (await resourcesSeenSince(db, before(now, day))).filter(({ accountId }) =>
      watched.has(accountId)
    );
    if (resources.length === 0) return [];
    const reports = await reportingResources({ db, store }, resources, this.#seriesAt(now));
    const at = (Math.floor(now / minute) * minute) as Instant;
    const counted = new Map<number, Map<string, number>>();
    const samples = new Map<number, FetchedSeries[]>();
    for (const [index, { accountId, providerId, endedAt }] of resources.entries()) {
      const dueBy = reports[index]?.dueBy ?? null;
      const state = resourceState({ endedAt, dueBy }, now);
      if (state === null) continue;
      const own = samples.get(accountId) ?? [];
      own.push(ownSample(providerId, resourceMetrics.up, at, state === 'up' ? 1 : 0));
      if (state !== 'down' && dueBy !== null)
        own.push(ownSample(providerId, resourceMetrics.overdue, at, overdueSeconds(dueBy, now)));
      samples.set(accountId, own);
      const counts = counted.get(accountId) ?? new Map(resourceStates.map((one) => [one, 0]));
      counts.set(state, (counts.get(state) ?? 0) + 1);
      counted.set(accountId, counts);
    }
    for (const provider of new Set(resources.map((one) => one.provider))) await this.#describe(provider);
    for (const [accountId, own] of samples) {
      const { written } = await storeSeries(this.#worker, accountId, 'reachability', own, now);
      if (written > 0) changes.tell('samples', { accountId });
    }
    return [...counted].flatMap(([accountId, counts]) =>
      [...counts].map(([state, count]) => ownSample(`account/${accountId}`, countedResources, at, count, { state }))
    );
  }

  async #describe(provider: string): Promise<void> {
    if (this.#described.has(provider)) return;
    await saveMetrics(this.#worker.db, provider, metricsOfResources);
    this.#described.add(provider);
  }

  async #seriesAt(now: Instant): ReturnType<typeof seriesOfResources> {
    const { db } = this.#worker;
    const signature = await seriesSignature(db);
    const isOld = now - this.#readAt >= seriesKeptFor || now < this.#readAt;
    if (this.#series === null || isOld || signature !== this.#signature) {
      this.#series = seriesOfResources(db);
      this.#series.catch(() => (this.#series = null)); // whoever waits for it has the error; the next one asks again
      this.#signature = signature;
      this.#readAt = now;
    }
    return this.#series;
  }
}
