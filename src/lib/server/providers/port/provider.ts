import { Refusal, type ProblemCode } from '$lib/core/problem/problem';
import type { SummaryPoints } from '$lib/core/series';
import type { Duration, Instant, Range } from '$lib/core/time';
import type { Acts } from './acts';
import type { Bills } from './bills';
import type { Guard, GuardLimits } from './meter';

/** Why a provider did not give what was asked. Each has its own remedy. */
export type ProviderFault = Extract<
  ProblemCode,
  | 'unreachable'
  | 'clock'
  | 'signature'
  | 'permission'
  | 'throttled'
  | 'unavailable'
  | 'malformed'
  | 'refused'
  | 'paused'
>;

/** A call to a provider that failed: what happened, and what a person can do about it. */
export class ProviderError extends Refusal {
  override readonly name = 'ProviderError';
  /** When the provider said how long to wait. */
  readonly retryAfter: Duration | null;
  /** What the provider answered: its status by HTTP, and what it said; null where there was no such answer. */
  readonly answered: { readonly status: number; readonly detail: string } | null;

  constructor(
    override readonly code: ProviderFault,
    message: string,
    remedy: string,
    {
      retryAfter = null,
      answered = null,
      ...options
    }: ErrorOptions & { retryAfter?: Duration | null; answered?: ProviderError['answered'] } = {}
  ) {
    super(code, message, remedy, options);
    this.retryAfter = retryAfter;
    this.answered = answered;
  }
}

/** What a credential says: where, who, and the secret that proves it. */
export interface ProviderAccess {
  readonly endpoint: string;
  readonly keyId: string;
  readonly secret: string;
  /** Every call goes through it: limits, retries, counting. */
  readonly guard: Guard;
  /** Calls the account's address, where the policy on addresses permits. */
  readonly fetch: typeof fetch;
}

/** One line of an account's test, in the order it was tried. */
export interface AccessCheck {
  readonly name: string;
  readonly passed: boolean;
  /** One sentence: what was seen. */
  readonly says: string;
  /** What to do when it did not pass. */
  readonly remedy: string | null;
}

export interface FoundResource {
  readonly providerId: string;
  readonly name: string;
  readonly type: string;
  readonly service: string;
  readonly region: string;
  readonly tags: Readonly<Record<string, string>>;
  /** Whether guest-level metrics are reported; `none` when there is no such thing. */
  readonly guest: 'none' | 'off' | 'on';
  readonly formerNames: readonly { readonly name: string; readonly until: Instant }[];
}

export interface FoundMetric {
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly unit: string;
  readonly kind: 'gauge' | 'delta' | 'cumulative';
  readonly shape: 'summary' | 'single';
  readonly resourceType: string;
  readonly service: string;
  readonly recommended: boolean;
  readonly level: 'host' | 'guest';
  readonly samplingMs: number;
  readonly delayMs: number;
}

/** What is to be fetched of one resource. */
export interface WantedResource {
  readonly providerId: string;
  readonly metrics: readonly string[];
}

/** One measured thing behind a sample, such as a single request: its value and what leads to it, such as the id of its trace. */
export interface Exemplar {
  readonly at: Instant;
  readonly value: number;
  readonly labels: Readonly<Record<string, string>>;
}

/** The points of one series as the provider names it. */
export interface FetchedSeries {
  readonly resource: string;
  readonly metric: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly points: SummaryPoints;
  readonly exemplars?: readonly Exemplar[];
}

/** One page of a fetch. */
export interface FetchedPage {
  readonly series: readonly FetchedSeries[];
  /** Values that were refused because they are not numbers, and the first of them in words. */
  readonly refused: number;
  readonly refusedExample: string | null;
}

/** Something that happened at the provider. */
export interface FoundEvent {
  readonly id: string;
  readonly at: Instant;
  /** Provider's id of the resource, as far as it is known. */
  readonly resource: string | null;
  readonly kind: string;
  readonly text: string;
  readonly subject: Readonly<Record<string, string>>;
}

/** An event that cannot be read. */
export interface UnreadableEvent {
  /** Its id, where that could be read: what follows is requested behind it. */
  readonly id: string | null;
  readonly why: string;
  /** The beginning of what was sent. */
  readonly example: string;
}

/** A stream of events: it may end (then it is asked again later) or go on. */
export interface EventFeed {
  /** The feed's name among those of the account; its cursor is kept under it. */
  readonly name: string;
  /** Events behind the one of a cursor. One that cannot be read is given as what it was and why, and costs itself alone. */
  follow(cursor: string | null, signal: AbortSignal): AsyncIterable<FoundEvent | UnreadableEvent>;
}

/** Lines of a span of time as a provider gives them: newline-delimited JSON, read off the event loop. */
export interface LinesPage {
  readonly body: Uint8Array;
  readonly isGzip: boolean;
  /** Every line before this moment is in this page or one before it. */
  readonly until: Instant;
}

/** What writes lines at a provider. */
export interface LineFeed {
  /** The feed's name among those of the account; how far it is read is stored under it. */
  readonly name: string;
  readonly service: string;
  /** Provider's id of the resource that writes; null where each line says it. */
  readonly resource: string | null;
  /** Lines from a moment on, page by page. With an end, the last page is complete up to it, also where there are none so old; without one, those that there are by now, or as long as they come. */
  read(from: Instant, to: Instant | null, signal: AbortSignal): AsyncIterable<LinesPage>;
}

/** A right that a credential needs, for the page that guides people. */
export interface NeededRight {
  readonly right: string;
  readonly why: string;
  readonly optional?: boolean;
}

/** What a person has to know and to type to connect an account. */
export interface ConnectGuide {
  readonly rights: readonly NeededRight[];
  /** Steps at the provider, in order. */
  readonly steps: readonly string[];
  readonly endpointLabel: string;
  readonly keyLabel: string;
  readonly secretLabel: string;
}

/**
 * The small port behind which every provider's interface lies. A further provider is a folder beside the others and a line in `registry.ts`;
 * docs/guides/add-a-provider.md shows how.
 */
export interface Provider {
  readonly name: string;
  readonly guide: ConnectGuide;
  /** Limits of its own for calls of one account; the usual ones unless it is said. */
  readonly limits?: Partial<GuardLimits>;
  /** How far back it can be asked, and the longest span of history that one piece requests. */
  readonly reach: Duration;
  readonly historyPiece: Duration;
  /** Whether a value is measured when it is requested, as a page that is scraped does: the plan's interval is then that of the samples. */
  readonly measuresOnRequest?: boolean;
  /** Requests that one pull takes, for estimates and prices. */
  requestsPerPull(resources: number, series: number): number;
  /** What a thousand requests cost until a person says otherwise. */
  readonly pricePerThousandRequests: number;
  /** Requests that reading the new lines of one feed takes; none where it is left out, as for a stream. */
  readonly requestsPerFeed?: number;
  /** What a gigabyte of lines costs that is fetched; nothing where it is left out. */
  readonly pricePerGigabyteOfLines?: number;
  testAccess(access: ProviderAccess): Promise<AccessCheck[]>;
  discover(access: ProviderAccess): Promise<FoundResource[]>;
  describeMetrics(access: ProviderAccess): Promise<FoundMetric[]>;
  /** Points of a half-open range, page by page. */
  fetch(access: ProviderAccess, wanted: readonly WantedResource[], range: Range): AsyncIterable<FetchedPage>;
  /** Feeds of events, where the provider has them. */
  events?(access: ProviderAccess): Promise<EventFeed[]>;
  /** What writes lines, where the provider has them. */
  lines?(access: ProviderAccess): Promise<LineFeed[]>;
  /** What its resources cost, where the provider bills. */
  bills?(access: ProviderAccess): Bills;
  /** What can be done with its resources, where the provider permits it to programs. */
  acts?(access: ProviderAccess): Acts;
  /** Switches guest-level metrics on for a resource, where the credential may. */
  enableGuest?(access: ProviderAccess, resource: string): Promise<void>;
}
