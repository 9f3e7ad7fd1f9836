import type { Instant } from '../time';
import MiniSearch from 'minisearch';

/** A metric as the catalogue lists it. */
export interface CatalogueEntry {
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly unit: string;
  readonly kind: 'gauge' | 'delta' | 'cumulative';
  readonly shape: string;
  readonly service: string;
  readonly resourceType: string;
  readonly samplingMs: number;
  readonly delayMs: number;
  readonly series: number;
  /** Where it exists. */
  readonly accounts: readonly string[];
  readonly providers: readonly string[];
  readonly regions: readonly string[];
  /** Labels beyond the resource, with some of their values. */
  readonly labels: Readonly<Record<string, readonly string[]>>;
  /** Start of the newest sample of any of its series; null when none has one. */
  readonly newest: Instant | null;
  readonly state: CatalogueState;
}

/** Whether a metric's samples arrive: `stale` when the newest is older than it should be, `not collected` when it has no series. */
export const catalogueStates = ['collected', 'stale', 'not collected'] as const;
export type CatalogueState = (typeof catalogueStates)[number];

/** What of the catalogue is wanted. */
export interface CatalogueFilter {
  readonly text: string;
  readonly state?: CatalogueState | 'pushed' | undefined;
  readonly service?: string | undefined;
}

const fields = ['title', 'name', 'description', 'service', 'resourceType', 'providers', 'labels'] as const;

/** How many metrics are indexed before others have a turn: some milliseconds of work. */
const indexedAtOnce = 10;

/** The words of all metrics, ready to be searched. */
export class CatalogueSearch {
  readonly entries: readonly CatalogueEntry[];
  readonly #index: MiniSearch<CatalogueEntry>;
  readonly #byName: ReadonlyMap<string, CatalogueEntry>;

  private constructor(entries: readonly CatalogueEntry[], index: MiniSearch<CatalogueEntry>) {
    this.entries = entries;
    this.#byName = new Map(entries.map((entry) => [entry.name, entry]));
    this.#index = index;
  }

  /**
   * Indexes metrics of unlike names, a few at a time, so that a thread that serves others too is never held up.
   *
   * @example (await CatalogueSearch.of(entries)).find({ text: 'quue dep' })[0].name // 'queue.depth'
   */
  static async of(entries: readonly CatalogueEntry[]): Promise<CatalogueSearch> {
    const index = new MiniSearch<CatalogueEntry>({ fields: [...fields], idField: 'name', extractField: textOf });
    await index.addAllAsync(entries, { chunkSize: indexedAtOnce });
    return new CatalogueSearch(entries, index);
  }

  /**
   * The metrics that have every word, in any of their texts, as a beginning or with a typing error; best first, with more series before fewer. Without words, all
   * by title, collected ones first.
   *
   * @example catalogue.find({ text: 'quue dep' })[0].name // 'queue.depth'
   */
  find({ text, state, service }: CatalogueFilter): CatalogueEntry[] {
    const fits = (entry: CatalogueEntry): boolean =>
      (service === undefined || entry.service === service) &&
      (state === undefined || (state === 'pushed' ? entry.providers.includes('pushed') : entry.state === state));
    if (text.trim() === '')
      return this.entries
        .filter(fits)
        .toSorted((one, other) => order(one) - order(other) || one.title.localeCompare(other.title));
    return this.#index
      .search(text, {
        boost: { title: 4, name: 3, service: 2, resourceType: 2 },
        boostDocument: (name) => weightOf(this.#byName.get(name as string)?.series ?? 0),
        prefix: true,
        fuzzy: (word) => (word.length > 3 ? 0.2 : false),
        combineWith: 'AND'
      })
      .map(({ id }) => this.#byName.get(id as string) as CatalogueEntry)
      .filter(fits);
  }
}

/** Of metrics that fit alike, the one of which there is more is more likely meant: the processors of 23 machines rather than those of 2 replicas. */
const weightOf = (series: number): number => 1 + Math.log2(1 + series) / 10;

/** The text of an entry that is searched under a field. */
function textOf(entry: CatalogueEntry, field: string): string {
  if (field === 'providers') return entry.providers.join(' ');
  if (field === 'labels')
    return Object.entries(entry.labels)
      .map(([name, values]) => `${name} ${values.join(' ')}`)
      .join(' ');
  return String(entry[field as 'title' | 'name' | 'description' | 'service' | 'resourceType']);
}

const order = ({ state }: CatalogueEntry): number => catalogueStates.indexOf(state);
