import type { Dates } from '$lib/core/time';
import { getContext, setContext } from 'svelte';

/** Who reads: in which zone times are shown, and what they may do. */
export interface Reader {
  readonly zone: string;
  /** How dates are written for them. */
  readonly dates: Exclude<Dates, string>;
  readonly mayEdit: boolean;
  /** Whether they are an administrator: accounts, credentials, prices and retention are theirs. */
  readonly mayAdminister: boolean;
  readonly personId: number;
  /** Teams that things can be given to. */
  readonly teams: readonly { readonly id: number; readonly name: string }[];
}

const key = Symbol('reader');
export const provideReader = (reader: Reader): Reader => setContext(key, reader);
export const useReader = (): Reader => getContext<Reader>(key);
