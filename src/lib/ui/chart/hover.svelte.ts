import { getContext, setContext } from 'svelte';
import type { Instant } from '$lib/core/time';

/** The instant under the pointer, shared by all charts of a page; null when it is on none. */
export class Hover {
  at = $state<Instant | null>(null);
}

const key = Symbol('hover');
export const provideHover = (): Hover => setContext(key, new Hover());
export const useHover = (): Hover => getContext<Hover | undefined>(key) ?? new Hover();
