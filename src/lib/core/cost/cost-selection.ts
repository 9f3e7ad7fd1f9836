import type { CostBasis } from './bill';
import { isMonth } from './month';
import type { CostDimension, CostFilter } from './cost-report';

/** Which costs a page shows, as its address says. */
export interface CostSelection {
  /** Such as `2026-11`; null for the month of now. */
  readonly month: string | null;
  readonly by: CostDimension;
  readonly basis: CostBasis;
  readonly filters: readonly CostFilter[];
}

/** By what costs can be divided, besides labels. */
export const plainDimensions = ['service', 'account', 'region', 'resource', 'usage', 'category'] as const;
const filterName = 'only.';
const mostFilters = 10;

const isDimension = (text: string): text is CostDimension =>
  (plainDimensions as readonly string[]).includes(text) || /^label:.{1,200}$/.test(text);

/**
 * Reads an address; what it does not understand is as usual: by service, as it is used, the month of now.
 *
 * @example costSelectionFrom(new URLSearchParams('by=region&only.service=objects')).filters // [{ by: 'service', values: ['objects'] }]
 */
export function costSelectionFrom(search: URLSearchParams): CostSelection {
  const month = search.get('month') ?? '';
  const by = search.get('by') ?? '';
  const filters = new Map<CostDimension, string[]>();
  for (const [name, value] of search) {
    const of = name.startsWith(filterName) ? name.slice(filterName.length) : '';
    if (!isDimension(of) || (filters.size >= mostFilters && !filters.has(of))) continue;
    filters.set(of, [...(filters.get(of) ?? []), value.slice(0, 1000)]);
  }
  return {
    month: isMonth(month) ? month : null,
    by: isDimension(by) ? by : 'service',
    basis: search.get('as') === 'billed' ? 'billed' : 'amortised',
    filters: [...filters].map(([one, values]) => ({ by: one, values }))
  };
}

/** {@link costSelectionFrom} backwards: the part of an address behind its `?`, with nothing that is as usual. */
export function costSearch({ month, by, basis, filters }: CostSelection): string {
  const search = new URLSearchParams();
  if (month !== null) search.set('month', month);
  if (by !== 'service') search.set('by', by);
  if (basis === 'billed') search.set('as', 'billed');
  for (const filter of filters) for (const value of filter.values) search.append(`${filterName}${filter.by}`, value);
  return search.toString();
}

/** The same costs, of one group alone, divided by what tells most of it. */
export function selectionWithin(selection: CostSelection, value: string): CostSelection {
  const others = selection.filters.filter(({ by }) => by !== selection.by);
  const next: CostDimension = selection.by === 'resource' ? 'usage' : 'resource';
  return { ...selection, by: next, filters: [...others, { by: selection.by, values: [value] }] };
}

/** The same costs without one of the filters. */
export const selectionWithout = (selection: CostSelection, by: CostDimension): CostSelection => ({
  ...selection,
  filters: selection.filters.filter((filter) => filter.by !== by)
});
