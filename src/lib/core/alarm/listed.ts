import type { Instant } from '../time';
import type { AlarmView, Noise } from './noise';
import type { Severity } from './severity';

/** One alarm as the list shows it. */
export interface ListedAlarm {
  readonly id: number;
  readonly name: string;
  readonly enabled: boolean;
  /** The gravest that it can have. */
  readonly severity: Severity;
  /** The gravest that it is raised with; null when it is not. */
  readonly raisedAs: Severity | null;
  readonly sentence: string;
  /** Of the services that its metrics belong to. */
  readonly services: readonly string[];
  readonly owner: string;
  readonly labels: Readonly<Record<string, string>>;
  /** Whether any route takes what it raises. */
  readonly notifies: boolean;
  /** Why it cannot be judged at present. */
  readonly lastError: { readonly message: string } | null;
  readonly changedAt: Instant;
  readonly changedBy: string;
  /** Names of accounts that send nothing, of which it watches something. */
  readonly dark: readonly string[];
  /** How many series are in each state. */
  readonly raised: number;
  readonly indeterminate: number;
  readonly clear: number;
  /** Since when the longest raised series is raised, or the newest change of state; null when it was never judged. */
  readonly since: Instant | null;
  readonly noise: Noise;
  /** The ready views that show it. */
  readonly views: readonly AlarmView[];
}
