import type { Severity } from '../alarm';
import type { Instant } from '../time';

/** Where an event is from: a provider, a program that sent it, Bussola's own doing, or a mark that somebody put. */
export const eventOrigins = ['provider', 'program', 'bussola', 'mark'] as const;
export type EventOrigin = (typeof eventOrigins)[number];

/** An event as a page lists it. */
export interface ListedEvent {
  /** Its account and id, of what can be opened; null for what is Bussola's own. @example '3.17' */
  readonly key: string | null;
  readonly origin: EventOrigin;
  readonly at: Instant;
  readonly type: string;
  readonly source: string;
  readonly text: string;
  readonly resource: string;
  readonly resourceId: number | null;
  readonly account: string;
  /** Of what was raised. */
  readonly severity: Severity | null;
  /** The incident that it is of; null for none. */
  readonly incidentId: number | null;
}

/** Types, sources, resources and attributes of events that there are, to choose from. */
export interface EventNames {
  readonly types: readonly string[];
  readonly sources: readonly string[];
  readonly resources: readonly string[];
  readonly attributes: readonly string[];
}

/** The ids of an event by its key; null for what is none. @example eventIds('3.17') // [3, 17] */
export function eventIds(key: string): readonly [accountId: number, id: number] | null {
  const found = /^([1-9]\d{0,9})\.([1-9]\d{0,9})$/.exec(key);
  const ids = [Number(found?.[1]), Number(found?.[2])] as const;
  return ids.every((id) => id <= 2_147_483_647) ? ids : null;
}
