import { z } from 'zod';
import { idSchema } from '../forms/id';
import { textFromInstant, type Instant } from '../time';

/** Kinds of changes, by the first part of the addresses of what changes, as they are called among people. */
export const changeKinds = {
  accounts: 'Accounts',
  agreements: 'Budgets and promises by file',
  alarms: 'Alarms',
  backups: 'Backups',
  bills: 'Bills',
  boards: 'Boards',
  budgets: 'Budgets',
  channels: 'Channels',
  checks: 'Checks',
  connectors: 'Connectors',
  costs: 'Rates',
  derived: 'Derived metrics',
  'event-rules': 'Event rules',
  folders: 'Folders of boards',
  followers: 'Followers',
  groups: 'Groups',
  incidents: 'Incidents',
  keys: 'Keys',
  'line-rules': 'Line rules',
  marks: 'Marks',
  'message-templates': 'Words of messages',
  metrics: 'Units of metrics',
  objectives: 'Objectives',
  outbox: 'Messages sent again',
  people: 'People',
  removals: 'What is restored',
  resources: 'Resources',
  responses: 'Responses',
  rotas: 'Rotas',
  routes: 'Routes',
  shelvings: 'Shelvings',
  signals: 'Signals',
  'summary-plans': 'Summaries',
  teams: 'Teams'
} as const satisfies Record<string, string>;
export type ChangeKind = keyof typeof changeKinds;
export const changeKindNames = Object.keys(changeKinds) as [ChangeKind, ...ChangeKind[]];

/** Addresses whose kind has another name. */
const asKinds: Readonly<Record<string, ChangeKind>> = {
  ...{ a: 'incidents', 'board-links': 'boards', calendars: 'rotas', confirm: 'channels', coverage: 'accounts' },
  ...{ first: 'people', join: 'people', leave: 'channels', me: 'people', 'on-call': 'routes', overrides: 'rotas' },
  ...{ receive: 'keys', reset: 'people', response: 'responses', summaries: 'summary-plans', swaps: 'rotas' }
};

/** Those of them whose ids are of that kind as well. */
const sameThings: ReadonlySet<string> = new Set(['receive', 'response']);

/**
 * What kind of change an act is, and the id of what changed.
 *
 * @param act what was requested: `PUT /alarms/{id}`, a page with its action, or `response` for one that acts by itself
 * @param id in its address; null for none
 * @returns null where nothing changes: for what is read, and for signing in and out
 * @example changedBy('PUT /alarms/{id}', 3) // { kind: 'alarms', id: 3 }
 * @example changedBy('POST /swaps/{id}/{answer}', 3) // { kind: 'rotas', id: null }
 */
export function changedBy(
  act: string,
  id: number | null
): { readonly kind: ChangeKind; readonly id: number | null } | null {
  if (act.startsWith('GET ')) return null;
  const first = /^(?:[A-Z]+ )?\/?([^/?]*)/.exec(act)?.[1] ?? '';
  if (Object.hasOwn(asKinds, first))
    return { kind: asKinds[first] as ChangeKind, id: sameThings.has(first) ? id : null };
  return Object.hasOwn(changeKinds, first) ? { kind: first as ChangeKind, id } : null;
}

/**
 * Who follows which changes.
 *
 * @example followerSchema.parse({ channelId: 3, kinds: ['alarms', 'boards'], isOn: true })
 */
export const followerSchema = z.strictObject({
  channelId: idSchema.describe('A webhook that is confirmed.'),
  kinds: z
    .array(z.enum(changeKindNames))
    .max(changeKindNames.length)
    .transform((kinds) => [...new Set(kinds)])
    .describe('Kinds of changes that are sent; every kind where there are none.'),
  isOn: z.boolean()
});
export type Follower = z.infer<typeof followerSchema>;

/** A change as it is stored until it is sent. */
export interface Change {
  /** `PUT /alarms/{id}`, a page with its action, or what happened to an incident. */
  readonly action: string;
  readonly what?: string;
  readonly by: string;
  readonly means: string;
  /** Of what changed; null where it has none or several did. */
  readonly id: number | null;
  readonly name: string;
  /** Its page; empty for none. */
  readonly path: string;
  /** Since when, by the data; of incidents. */
  readonly since?: Instant;
  readonly [more: string]: unknown;
}

/** What happened to an incident, in words. */
const incidentWords: Readonly<Record<string, string>> = {
  opened: 'Raises an incident',
  severity: 'Changes the severity of an incident',
  closed: 'Clears an incident',
  ended: 'Ends an incident whose series is not watched any more',
  unjudged: 'Cannot judge an alarm',
  rerouted: 'Routes an incident anew',
  unreached: 'Could notify nobody of an incident',
  shelved: 'Holds messages about an incident back',
  unshelved: 'Holds messages about an incident back no longer'
};

/** What was done, in words. @example changeWords({ action: 'opened', … }) // 'Raises an incident' */
export const changeWords = ({ what, action }: Pick<Change, 'what' | 'action'>): string =>
  what ?? incidentWords[action] ?? action;

/**
 * A change as data for a program: instants as RFC 3339, its page with Bussola's address, nothing that is null.
 *
 * @example factsOfChange('alarms', 1760000000000, change, 'https://bussola.example.test').link // 'https://bussola.example.test/alarms/3'
 */
export function factsOfChange(
  kind: string,
  at: Instant,
  { path, since, ...change }: Change,
  origin: string
): Record<string, unknown> {
  const facts = {
    ...change,
    ...{ kind, at: textFromInstant(at), what: changeWords(change) },
    ...(since !== undefined && { since: textFromInstant(since) }),
    ...(path !== '' && { link: `${origin}${path}` })
  };
  return Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== null && value !== ''));
}
