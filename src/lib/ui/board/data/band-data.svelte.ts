import { labelKey, type Labels, type Signal } from '$lib/core/signal';
import { textFromInstant, type Range } from '$lib/core/time';
import type { BandAnswer } from '$lib/core/alarm';
import { callApi, wordsOf } from '../../api';
import type { BandAreas } from '../../chart/picture';

/** What moves on by less than this many cells is not looked up anew. */
const patience = 12;

/** The anomaly bands of a signal, as far as somebody wants to see them. */
export class BandData {
  answer = $state.raw<BandAnswer | null>(null);
  problem = $state<string | null>(null);
  #asked: { readonly of: string; readonly to: number } | null = null;
  #asking: AbortController | null = null;

  /** Requests the bands of a signal over a range; what is drawn stays until the new answer is there. */
  async ask(signal: Signal, range: Range, step: number, widths?: number): Promise<void> {
    const of = JSON.stringify([signal, range.to - range.from, step, widths]);
    if (this.#asked?.of === of && Math.abs(range.to - this.#asked.to) < patience * step) return;
    this.#asked = { of, to: range.to };
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    const span = { from: textFromInstant(range.from), to: textFromInstant(range.to) };
    const body = { signal, ...span, step, ...(widths !== undefined && { widths }) };
    const reply = await callApi<BandAnswer>('POST', '/bands', { body, signal: asking.signal });
    if (reply.kind === 'cancelled' || asking.signal.aborted) return;
    this.problem = reply.kind === 'refused' ? wordsOf(reply.problem) : null;
    if (reply.kind === 'answered') this.answer = reply.answer;
  }

  /** Gives up what is under way, and what is known. */
  clear(): void {
    this.#asking?.abort();
    this.#asked = null;
    this.answer = this.problem = null;
  }
}

/** The bands of an answer in the hues of their lines; undefined when none of them has one. */
export function areasOf(
  answer: BandAnswer | null,
  lines: readonly { readonly hue: number; readonly labels: Labels }[]
): BandAreas | undefined {
  if (answer === null) return undefined;
  const byLabels = new Map(answer.series.map((series) => [labelKey(series.labels), series]));
  const numbers = (all: readonly (number | null)[]) => Float64Array.from(all, (one) => one ?? NaN);
  const areas = lines.flatMap(({ hue, labels }) => {
    const band = byLabels.get(labelKey(labels));
    return band && band.high.length > 0 ? [{ hue, low: numbers(band.low), high: numbers(band.high) }] : [];
  });
  const { start, step, count } = answer;
  return areas.length === 0 ? undefined : { start, step, count, areas };
}
