import { CatalogueSearch, type CatalogueEntry } from '$lib/core/catalogue';
import type { Clock, Instant } from '$lib/core/time';
import type { Changes } from '../../base/changes';

/** How long what was read of the database serves. */
const servesMs = 30_000;
/** When reading took longer than this, whoever searches has what is known already. */
const waitedForMs = 250;

/** Reads the metrics there are: a list of `CatalogueEntry` as JSON. */
export interface CatalogueReader {
  catalogue(now: Instant): Promise<Uint8Array>;
}

/** The catalogue of metrics, read by the store's thread now and then and searched in memory. One for the process. */
export class Catalogue {
  readonly #evaluator: CatalogueReader;
  readonly #clock: Clock;
  readonly #patienceMs: number;
  #known: { readonly search: CatalogueSearch; readonly readAt: number; readonly took: number } | null = null;
  #reading: Promise<CatalogueSearch> | null = null;
  #isOld = false;

  constructor({
    evaluator,
    clock,
    changes,
    patienceMs = waitedForMs
  }: {
    evaluator: CatalogueReader;
    clock: Clock;
    changes: Changes;
    patienceMs?: number;
  }) {
    this.#patienceMs = patienceMs;
    this.#evaluator = evaluator;
    this.#clock = clock;
    for (const name of ['account', 'definition'] as const) changes.on(name, () => (this.#isOld = true));
  }

  /** The index of all metrics as they are known now; where reading them takes long, as they were a little earlier, while it is read again. */
  search(): Promise<CatalogueSearch> {
    const now = this.#clock.now();
    const known = this.#known;
    if (known && !this.#isOld && now - known.readAt <= servesMs && now >= known.readAt)
      return Promise.resolve(known.search);
    this.#reading ??= this.#readAgain(now).finally(() => (this.#reading = null));
    if (known === null || known.took <= this.#patienceMs) return this.#reading;
    this.#reading.catch(() => undefined); // tried again with the next search; what is known still serves
    return Promise.resolve(known.search);
  }

  /** The index as it is once what is being read is known: for whoever would find nothing otherwise. */
  async newest(): Promise<CatalogueSearch> {
    const search = await this.search();
    return this.#reading ?? search;
  }

  async #readAgain(readAt: number): Promise<CatalogueSearch> {
    this.#isOld = false;
    const began = performance.now();
    try {
      const bytes = await this.#evaluator.catalogue(this.#clock.now());
      const search = await CatalogueSearch.of(JSON.parse(new TextDecoder().decode(bytes)) as CatalogueEntry[]);
      this.#known = { search, readAt, took: performance.now() - began };
      return search;
    } catch (error) {
      this.#isOld = true;
      throw error;
    }
  }
}
