import type { Dates } from '$lib/core/time';
import type { Person } from '../people/people';

/** How dates are written for whoever asks: in their zone and language, or for one who is not signed in in UTC and English. */
export const readerDates = (person: Pick<Person, 'zone' | 'dateLocale'> | null): Exclude<Dates, string> => ({
  zone: person?.zone ?? 'UTC',
  locale: person?.dateLocale ?? 'en'
});
