import { severities } from '$lib/core/alarm';
import { idFrom } from '$lib/core/forms/id';
import { resolveRange, shownRangeFrom } from '$lib/core/time';
import { attentions, listClosed, listOpen, type IncidentFilter } from '$server/incidents/list';
import { darkAccounts } from '$server/intake/own/dark-accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Open incidents on one page, and incidents of the range that are listed. */
const perPage = 50;
const mostClosed = 500;
/** Characters of a text that is searched for. */
const longestText = 200;

/** A filter as the address has it; what it does not know is passed over. */
function filterIn(search: URLSearchParams): IncidentFilter {
  const given = (name: string) => {
    const value = search.get(name)?.trim().slice(0, longestText).replaceAll('\0', '') ?? '';
    return value === '' ? null : value;
  };
  return {
    severity: severities.find((one) => one === search.get('severity')) ?? null,
    attention: attentions.find((one) => one === search.get('attention')) ?? null,
    ...{ service: given('service'), account: given('account'), text: given('text') }
  };
}

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:overview');
  const { db, clock, providers, openNow } = bussola();
  const all = url.searchParams.has('range') || url.searchParams.has('from');
  const shown = all ? shownRangeFrom(url.searchParams) : shownRangeFrom(new URLSearchParams('range=P14D'));
  const page = idFrom(url.searchParams.get('page')) ?? 1;
  const filter = filterIn(url.searchParams);
  const dark = darkAccounts(db, providers, clock.now()).then((all) => new Set(all.map(({ name }) => name)));
  const [open, closed] = await Promise.all([
    listOpen({ db, openNow }, filter, perPage, (page - 1) * perPage, dark),
    listClosed(db, filter, resolveRange(shown, clock.now()), mostClosed)
  ]);
  return {
    groups: open.groups,
    openInAll: open.count,
    ...{ page, perPage, filter, closed },
    isCut: closed.length === mostClosed
  };
};
