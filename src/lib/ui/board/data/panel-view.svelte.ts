import type { Statistic } from '$lib/core/series';
import type { Duration, ShownRange } from '$lib/core/time';
import { BandData } from './band-data.svelte';
import { PanelData } from './panel-data.svelte';

/** How somebody reads one panel at the moment: none of it is saved with the board. */
export class PanelView {
  /** The one series that is drawn alone; null draws all. */
  alone = $state<number | null>(null);
  asTable = $state(false);
  statistic = $state<Statistic | undefined>(undefined);
  /** Another comparison than the panel's own; null for none. */
  earlier = $state<Duration | null | undefined>(undefined);
  /** Whether its anomaly bands are drawn, and what is known of them. */
  showsBands = $state(false);
  readonly bands = untracked(() => new BandData());
  /** Its own range while it is unlinked from the board's, with those before it. */
  own = $state.raw<readonly ShownRange[]>([]);
  unlinked = $state(false);
  readonly #cached = new Map<string, PanelData>();

  /** What is known of one of its queries. */
  data(name: string): PanelData {
    const known = this.#cached.get(name);
    if (known) return known;
    const made = untracked(() => new PanelData());
    this.#cached.set(name, made);
    return made;
  }

  /** Shows another span on this panel alone. */
  choose(shown: ShownRange): void {
    this.own = [...(this.unlinked ? this.own : []), shown];
    this.unlinked = true;
  }

  /** Back to the span before; to the board's when there is none. */
  stepBack(): void {
    this.own = this.own.slice(0, -1);
    this.unlinked = this.own.length > 0;
  }

  /** The range it shows: its own while it is unlinked. @param usual what it shows else */
  shown(usual: ShownRange): ShownRange {
    return (this.unlinked ? this.own.at(-1) : undefined) ?? usual;
  }
}

/**
 * Makes something with state that belongs to no reaction. What a derived value or an effect makes by itself, it does not follow: a panel whose data were first requested
 * there would never hear of them.
 */
function untracked<Made>(make: () => Made): Made {
  let made: Made | undefined;
  $effect.root(() => {
    made = make();
  });
  return made ?? make(); // a server runs no reactions
}

/** The views of a board's panels by their ids, for as long as the page is open. */
export class PanelViews {
  readonly #views = new Map<string, PanelView>();

  of(id: string): PanelView {
    const known = this.#views.get(id);
    if (known) return known;
    const made = untracked(() => new PanelView());
    this.#views.set(id, made);
    return made;
  }
}
