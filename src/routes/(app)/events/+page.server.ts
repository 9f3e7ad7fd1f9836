import { eventIds, eventOrigins } from '$lib/core/events';
import { barStep } from '$lib/core/logs';
import { after, duration, resolveRange, shownRangeFrom } from '$lib/core/time';
import { allEvents } from '$server/events/all-events';
import { allEventRules } from '$server/events/event-rules';
import { eventById, eventNames } from '$server/events/outside-events';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Characters of a text that is searched for. */
const longestText = 200;

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:overview');
  depends('bussola:accounts');
  const { db, clock } = bussola();
  const search = url.searchParams;
  const given = (name: string) => {
    const value = search.get(name)?.trim().slice(0, longestText).replaceAll('\0', '') ?? '';
    return value === '' ? null : value;
  };
  const says = search.has('range') || search.has('from');
  const shown = resolveRange(
    says ? shownRangeFrom(search) : shownRangeFrom(new URLSearchParams('range=P1D')),
    clock.now()
  );
  // Up to this very moment.
  const range = { from: shown.from, to: after(shown.to, duration(1)) };
  const step = barStep(range);
  const filter = {
    ...{ range, text: given('text'), type: given('type'), account: null, resourceId: null },
    origin: eventOrigins.find((one) => one === search.get('origin')) ?? null
  };
  const ids = eventIds(search.get('event') ?? '');
  const [all, chosen, names, rules] = await Promise.all([
    allEvents(db, filter, step, Math.ceil((range.to - range.from) / step)),
    ids === null ? null : eventById(db, ...ids),
    eventNames(db),
    allEventRules(db)
  ]);
  return { ...all, chosen, filter, step, isUsual: !says, types: names.types, rules };
};
