import type { Attempt, Phase } from '$lib/core/reachability';
import type { AddressPolicy } from '../providers/port/outbound';

/** What an attempt failed by, in words for people. */
export class AttemptFailed extends Error {
  override readonly name = 'AttemptFailed';
}

/** What is written down while an attempt runs; what stands there when it fails is part of the outcome. */
export type Progress = {
  -readonly [Key in keyof Omit<Attempt, 'at' | 'problem' | 'took' | 'phases'>]: Attempt[Key];
} & { readonly phases: Partial<Record<Phase, number>> };

/** One attempt as it goes on: its time limit, the policy on addresses, and what is written down. */
export interface Going {
  readonly signal: AbortSignal;
  readonly refusedWhy: AddressPolicy;
  readonly progress: Progress;
  /** Does one phase and writes its time down, also when it fails. */
  phase<Result>(name: Phase, work: () => Promise<Result>): Promise<Result>;
}
