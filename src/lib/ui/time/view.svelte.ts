import { getContext, setContext } from 'svelte';
import { fixedRange, type Instant } from '$lib/core/time';
import { showRange } from './shown';

/** How time is chosen and told on a part of a page: what dragging across a chart does, how one steps back, and in which zone times are. */
export interface TimeView {
  /** Null for the reader's own. */
  readonly zone: string | null;
  choose(from: Instant, to: Instant): void;
  stepBack(): void;
}

/** The whole page follows; the address keeps what was shown, so that stepping back is going back. */
const ofThePage: TimeView = {
  zone: null,
  choose: (from, to) => void showRange(fixedRange(from, to)),
  stepBack: () => history.back()
};

const key = Symbol('time view');
export const provideTimeView = (view: TimeView): TimeView => setContext(key, view);
export const useTimeView = (): TimeView => getContext<TimeView | undefined>(key) ?? ofThePage;
