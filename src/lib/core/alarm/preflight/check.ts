import type { CheckedMetric } from '../../signal';
import type { Duration, Instant } from '../../time';
import type { RehearsalAnswer } from '../rehearsal-answer';
import type { AlarmDefinition } from '../schema';

/** What a preflight knows of a metric that an alarm watches. */
export interface PreflightMetric extends CheckedMetric {
  readonly name: string;
  /** UCUM code. */
  readonly unit: string;
  readonly samplingMs: Duration;
  readonly delayMs: Duration;
  /** How often the slowest account requests it. */
  readonly everyMs: Duration;
}

/** Who is notified of what an alarm raises. */
export interface AlarmReach {
  /** The name of the route. */
  readonly route: string;
  /** Who is notified and when, in words. */
  readonly says: string;
  /** Channels of its first step that would receive it. */
  readonly confirmed: number;
  /** Whoever of its first step would receive nothing. */
  readonly unconfirmed: readonly string[];
}

/** What a preflight knows of the world around an alarm. */
export interface PreflightFacts {
  /** Every metric that there is. */
  readonly metrics: readonly PreflightMetric[];
  /** Who would be notified of what an alarm raises; null for nobody. */
  readonly reachOf: (alarm: AlarmDefinition) => AlarmReach | null;
  /** Every alarm that is saved. */
  readonly alarms: readonly { readonly id: number; readonly definition: AlarmDefinition }[];
  /** Which of them this one replaces; null for a new one. */
  readonly id: number | null;
  /** What it would have done over some days of history; null while that is not known. */
  readonly rehearsal: RehearsalAnswer | null;
  readonly now: Instant;
}

/** The names of the checks. */
export type CheckName =
  | 'notified'
  | 'confirmed'
  | 'matches'
  | 'collected'
  | 'signal'
  | 'peaks'
  | 'unit'
  | 'window'
  | 'delay'
  | 'timing'
  | 'batches'
  | 'threshold'
  | 'calm'
  | 'band'
  | 'missing'
  | 'duplicate'
  | 'circle';

/** Where something that cannot be fixed in the alarm itself is fixed. */
export type Elsewhere =
  { readonly page: 'channels' | 'routes' | 'accounts' | 'bench' } | { readonly page: 'alarm'; readonly id: number };

/** What fixes a finding: the alarm as it would be then, or the page where it is done. */
export type Fix = { readonly says: string } & ({ readonly alarm: AlarmDefinition } | { readonly open: Elsewhere });

/** One check in plain words. */
export interface PreflightCheck {
  readonly id: CheckName;
  readonly passed: boolean;
  readonly says: string;
  /** None where nothing is to be fixed, or people have to think. */
  readonly fix?: Fix;
}

/** Looks at one thing; nothing to say gives nothing. */
export type Check = (alarm: AlarmDefinition, facts: PreflightFacts) => PreflightCheck[];

export const passed = (id: CheckName, says: string): PreflightCheck[] => [{ id, passed: true, says }];
export const failed = (id: CheckName, says: string, fix?: Fix): PreflightCheck[] => [
  { id, passed: false, says, ...(fix && { fix }) }
];

/** An alarm with another rule. */
export const withRule = (alarm: AlarmDefinition, change: Partial<AlarmDefinition['rule']>): AlarmDefinition => ({
  ...alarm,
  rule: { ...alarm.rule, ...change }
});
