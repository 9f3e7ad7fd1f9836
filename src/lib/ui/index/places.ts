import type { Role } from '$lib/core/people/rights';

/** A page of a place. */
export interface IndexTab {
  readonly title: string;
  readonly href: string;
  /** Whoever may see it, where not everybody may. */
  readonly right?: Role;
}

/** A place of the index: one page, or several that belong together as a row of tabs. */
export interface IndexPlace {
  readonly title: string;
  readonly tabs: readonly IndexTab[];
}

/** The places of the index, in groups: what happens, what people look at, where data come from. */
export const placeGroups: readonly (readonly IndexPlace[])[] = [
  [
    { title: 'Incidents', tabs: [{ title: 'Incidents', href: '/incidents' }] },
    {
      title: 'On call',
      tabs: [
        { title: 'Rotas', href: '/rotas' },
        { title: 'Routes', href: '/routes' },
        { title: 'Channels', href: '/channels' },
        { title: 'Outbox', href: '/outbox' }
      ]
    },
    {
      title: 'Alarms',
      tabs: [
        { title: 'Alarms', href: '/alarms' },
        { title: 'Responses', href: '/responses' }
      ]
    }
  ],
  [
    { title: 'Boards', tabs: [{ title: 'Boards', href: '/boards' }] },
    {
      title: 'Bench',
      tabs: [
        { title: 'Bench', href: '/bench' },
        { title: 'Signals', href: '/signals' },
        { title: 'Derived metrics', href: '/derived' },
        { title: 'Groups', href: '/groups' }
      ]
    },
    {
      title: 'Logs',
      tabs: [
        { title: 'Logs', href: '/logs' },
        { title: 'Events', href: '/events' },
        { title: 'Line rules', href: '/line-rules' }
      ]
    }
  ],
  [
    {
      title: 'Objectives',
      tabs: [
        { title: 'Objectives', href: '/objectives' },
        { title: 'Summary', href: '/summary' }
      ]
    },
    {
      title: 'Cost',
      tabs: [
        { title: 'Cost', href: '/cost' },
        { title: 'Bills and rates', href: '/bills' }
      ]
    },
    {
      title: 'Accounts',
      tabs: [
        { title: 'Accounts', href: '/accounts' },
        { title: 'Coverage', href: '/coverage' },
        { title: 'Intake', href: '/intake' },
        { title: 'Checks', href: '/checks' },
        { title: 'Connectors', href: '/connectors' },
        { title: 'Keys', href: '/receive' },
        { title: 'API', href: '/operations' },
        { title: 'Followers', href: '/followers', right: 'administrator' },
        { title: 'Store', href: '/store' },
        { title: 'Processes', href: '/processes' },
        { title: 'What is slow', href: '/slow', right: 'administrator' },
        { title: 'Backups', href: '/backups', right: 'administrator' }
      ]
    },
    {
      title: 'People',
      tabs: [
        { title: 'People', href: '/people' },
        { title: 'Teams', href: '/teams' },
        { title: 'Audit', href: '/audit', right: 'administrator' },
        { title: 'Tidying up', href: '/tidy' }
      ]
    }
  ]
];

/** Whether a page belongs to an address. @example isWithin('/alarms/3', '/alarms') // true */
export const isWithin = (path: string, href: string): boolean => path === href || path.startsWith(`${href}/`);

/** Pages that belong to a service when their address names one. */
const pagesOfServices = ['/alarms', '/bench', '/coverage', '/incidents', '/logs'];

/** The service that a page belongs to, which has its own rows in the index; null for a page of a place. @example serviceOf('/alarms', new URLSearchParams('service=queues')) // 'queues' */
export const serviceOf = (path: string, search: URLSearchParams): string | null =>
  isWithin(path, '/clusters') ? 'clusters' : pagesOfServices.includes(path) ? search.get('service') : null;

/** The place that a page belongs to, and the tab within it; null when it belongs to none. */
export function placeOf(path: string): { place: IndexPlace; href: string } | null {
  for (const place of placeGroups.flat())
    for (const { href } of place.tabs) if (isWithin(path, href)) return { place, href };
  return null;
}
