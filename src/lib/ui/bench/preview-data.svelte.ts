import * as Comlink from 'comlink';
import type { QueryAnswer } from '$lib/core/series';
import { readRows, type Signal } from '$lib/core/signal';
import { picksAlone, pickKey } from '$lib/core/signal/cached-picks';
import type { Range } from '$lib/core/time';
import { PanelData, post, spanOf } from '../board/data/panel-data.svelte';
import type { Here } from './local-evaluation.worker';

/** What was answered longer ago is requested again before it is worked with. */
const freshMs = 30_000;
/** More cells than this are left to the server. */
const mostCells = 200_000;

/**
 * The preview of the bench. After the first answer it has the picks themselves fetched; while only formulas, limits, units or what is drawn change, the browser works the
 * preview out of them, in a worker, and the server is not asked.
 */
export class PreviewData extends PanelData {
  #worker: Worker | null = null;
  #here: Comlink.Remote<Here> | null = null;
  #cached: { readonly key: string; readonly range: Range; readonly since: number } | null = null;
  #fetching: AbortController | null = null;
  /** Counts what was asked, so that an answer that was overtaken is not shown. */
  #asked = 0;

  /**
   * Shows a signal after a person changed it.
   *
   * @param shown the range as it is shown, which stays the same while it moves with the clock
   */
  async show(signal: Signal, range: Range, shown: string, cells: number): Promise<void> {
    const asked = ++this.#asked;
    const key = this.#keyOf(signal, shown, cells);
    const cached = this.#cached;
    if (cached?.key === key && performance.now() - cached.since < freshMs) {
      const told = (await this.#here?.answer(signal)) ?? null;
      if (asked !== this.#asked) return;
      if (told !== null) {
        super.stop();
        this.take(told, cached.range);
        return;
      }
    }
    await this.ask(signal, range, cells);
    if (asked === this.#asked && this.refusal === null) await this.#fetchPicks(signal, range, key, cells);
  }

  override stop(): void {
    super.stop();
    this.#fetching?.abort();
    this.#worker?.terminate();
    this.#worker = this.#here = this.#cached = null;
  }

  /** What the picks and their cells depend on. */
  #keyOf(signal: Signal, shown: string, cells: number): string {
    return JSON.stringify([readRows(signal).map(pickKey).sort(), signal.step, shown, cells, this.zone]);
  }

  async #fetchPicks(signal: Signal, range: Range, key: string, cells: number): Promise<void> {
    const { answer } = this;
    if (answer === null || answer.effort.series * answer.count > mostCells) return;
    this.#fetching?.abort();
    const fetching = (this.#fetching = new AbortController());
    const picks = picksAlone(signal);
    const told = await post<QueryAnswer>(
      '/query',
      { signal: picks, ...spanOf(range), zone: this.zone, cells },
      fetching.signal
    );
    if (told === null || !('series' in told) || fetching.signal.aborted) return; // the server goes on working it out
    await this.#start().hold(picks, told);
    if (!fetching.signal.aborted) this.#cached = { key, range, since: performance.now() };
  }

  #start(): Comlink.Remote<Here> {
    if (this.#here) return this.#here;
    this.#worker = new Worker(new URL('./local-evaluation.worker.ts', import.meta.url), { type: 'module' });
    return (this.#here = Comlink.wrap<Here>(this.#worker));
  }
}
