import { getContext, setContext } from 'svelte';
import { fixedRange, type Instant } from '$lib/core/time';
import { showRange, shownRange, usualShown } from './shown';

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
  choose: zoomTo,
  stepBack: zoomBack
};

/** Spans that were chosen on this page one after the other, each an entry of the browser's history. */
let zooms = 0;

/** Shows a span that was chosen on a chart; the browser's Back returns to the one before. */
export function zoomTo(from: Instant, to: Instant): void {
  zooms++;
  void showRange(fixedRange(from, to));
}

/** Back to what was shown before a span was chosen: never to another page, also where the address came with a span. */
export function zoomBack(): void {
  if (shownRange().kind !== 'fixed') zooms = 0;
  else if (zooms > 0) {
    zooms--;
    history.back();
  } else void showRange(usualShown());
}

const key = Symbol('time view');
export const provideTimeView = (view: TimeView): TimeView => setContext(key, view);
export const useTimeView = (): TimeView => getContext<TimeView | undefined>(key) ?? ofThePage;
