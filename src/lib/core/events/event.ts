import type { Instant } from '../time';

/** What happened somewhere outside: at a provider, or as a program said it. */
export interface OutsideEvent {
  readonly id: number;
  /** The account by which it came; with its id, the event. */
  readonly accountId: number;
  /** The account of the resource that it is about, else the one by which it came. */
  readonly placeId: number;
  readonly account: string;
  readonly at: Instant;
  /** What kind of thing happened, such as `stalled` or `test.corallo.release.finished`. */
  readonly type: string;
  /** Who says so: the provider, or the source that a program names. */
  readonly source: string;
  /** Whether a program sent it; else it was read from a provider. */
  readonly isSent: boolean;
  /** In one sentence. */
  readonly text: string;
  /** The resource that it is about; null where it is about none that is known. */
  readonly resourceId: number | null;
  /** Its name, or what the event calls what it is about; empty for nothing. */
  readonly resource: string;
  /** The key of its service; empty for none. */
  readonly service: string;
  readonly region: string;
  /** What else it says, by names. */
  readonly attributes: Readonly<Record<string, string>>;
}

/** Attributes that an event may have, and characters of each. */
export const mostAttributes = 64;
export const longestAttribute = 2000;
/** Characters of a type, a source and a text. */
export const longestType = 200;
export const longestSource = 300;
export const longestText = 1000;

/**
 * What events have in common that are about the same thing: an event clears only what is raised on the same thing. It is the resource, else what the event is about and who says so.
 *
 * @example thingOf({ account: 'sub-sea', resource: 'dorsale-standby', source: '/release-robot' }) // 'sub-sea/dorsale-standby'
 */
export const thingOf = ({ account, resource, source }: Pick<OutsideEvent, 'account' | 'resource' | 'source'>): string =>
  `${account}/${resource === '' ? `from ${source}` : resource}`;
