import { untrack } from 'svelte';
import { mapSignals, pickedSignal, readAs, type Choices, type Panel, type Picker } from '$lib/core/board';
import type { Signal } from '$lib/core/signal';
import {
  resolveRange,
  saysRange,
  usualOf,
  type Duration,
  type Instant,
  type Range,
  type ShownRange
} from '$lib/core/time';
import { later } from '../edit/later';
import { arrivalOf, labelsOf, type BoardContext } from './board-context.svelte';
import { BoardData, type PanelQuery } from './panel-data.svelte';
import { queriesOfPanel } from './panel-queries';
import type { PanelView, PanelViews } from './panel-view.svelte';
import { Rereading } from './rereading';

/** What decides what a board requests, as it stands at the moment. */
export interface ReadingState {
  readonly views: PanelViews;
  readonly metrics: BoardContext['metrics'];
  readonly pickers: readonly Picker[];
  readonly choices: Choices;
  /** A step for all panels in place of their own. */
  readonly step: Signal['step'] | undefined;
  /** By how much earlier every panel is compared. */
  readonly earlier: Duration | undefined;
  readonly zone: string;
  /** The range of the board. */
  readonly shown: ShownRange;
  /** Of the address. */
  readonly search: URLSearchParams;
  /** The panels that are seen, in reading order, so that what is seen first is there first. */
  readonly panels: readonly Panel[];
  readonly now: Instant;
}

/** Requests what the panels of a board show, and again when there is news. */
export class BoardReading {
  readonly #data: BoardData;
  readonly #state: () => ReadingState;
  readonly #rereading = new Rereading(() => this.#ask(true), later);

  /**
   * @param board its id; null for one that is not stored
   * @param token of a link by which the board is seen; null for people of the workspace
   */
  constructor(board: number | null, token: string | null, state: () => ReadingState) {
    this.#data = new BoardData(board, token);
    this.#state = state;
  }

  /** A panel with its signals as they are shown now. */
  readonly asShown = (panel: Panel, view: PanelView): Panel => {
    const { metrics, pickers, choices, step } = this.#state();
    const labels = (metric: string) => labelsOf(metrics, metric);
    return mapSignals(panel, (signal) =>
      readAs(pickedSignal(signal, pickers, choices, panel.ignores ?? [], labels), { step, statistic: view.statistic })
    );
  };

  /** The span that a panel shows. */
  spanOf(panel: Panel): Range {
    return resolveRange(this.#shownBy(panel), this.#state().now);
  }

  /** Asks what is not known yet: of panels that changed. To be called in an effect. */
  read(): void {
    this.#rereading.wait(this.#ask(false));
  }

  /** There is news: all panels whose range moves with the clock are asked again. */
  soon(): void {
    this.#rereading.soon();
  }

  stop(): void {
    this.#rereading.stop();
    this.#data.stop();
  }

  /** What a panel shows while it is not unlinked: what somebody chose for all, else what it opens with. */
  #shownBy({ id, range: own }: Panel): ShownRange {
    const { views, search, shown } = this.#state();
    return views.of(id).shown(own === undefined || saysRange(search) ? shown : usualOf(own));
  }

  #ask(news: boolean): Promise<void> {
    const { panels, zone } = this.#state();
    const queries = panels.flatMap((panel) => this.#queriesOf(panel, news));
    return queries.length > 0 ? this.#data.ask(queries, zone).catch(reportError) : Promise.resolve();
  }

  #queriesOf(panel: Panel, news: boolean): PanelQuery[] {
    const { views, metrics, earlier, zone } = this.#state();
    const now = untrack(() => this.#state().now);
    const view = views.of(panel.id);
    const shown = this.#shownBy(panel);
    const compared = view.earlier === undefined ? earlier : view.earlier;
    const all = queriesOfPanel(this.asShown(panel, view), resolveRange(shown, now), {
      earlier: compared,
      arrivalOf: (signal) => arrivalOf(metrics, signal)
    });
    return all.flatMap(({ name, column, ...query }) => {
      const data = view.data(name);
      const { signal, range: span, cells } = query;
      const words = JSON.stringify([shown, span.to - span.from, name === 'earlier' && compared, cells, signal, zone]);
      if (data.asked === words && !(news && shown.kind === 'live')) return [];
      data.asked = words;
      const of = {
        panel: panel.id,
        column,
        step: signal.step,
        ...(view.statistic ? { statistic: view.statistic } : {})
      };
      return [{ ...query, data, of }];
    });
  }
}
