// What the outside world sees of Corallo Lines: its sites over HTTP and HTTPS, and its name server. People and tests choose how each behaves.
import type { FrontBehaviour } from './behaviour';

/** Sites, by their name in addresses, with the words that their page has. */
export const sites = {
  tickets: 'Where would you like to sail?',
  timetable: 'Departures of today',
  'freight-desk': 'Book a pallet'
} as const;
export type SiteName = keyof typeof sites;

/** Everything that can be told how to behave. */
export const frontParts = [...(Object.keys(sites) as SiteName[]), 'names'] as const;
export type FrontPart = SiteName | 'names';

export interface Front {
  readonly behaving: Record<FrontPart, FrontBehaviour>;
  /** Where it listens besides the stand-ins' own port; null for what was not asked for. */
  readonly ports: { secure: number | null; names: number | null };
}

export const makeFront = (): Front => ({
  behaving: { tickets: 'well', timetable: 'well', 'freight-desk': 'well', names: 'well' },
  ports: { secure: null, names: null }
});

/** The name at which the sites are reached over HTTPS: the certificate is for it. */
export const secureName = 'tickets.corallo.example.test';
/** How long the certificate is valid, days from the start. */
export const certificateDays = 19;
