import { rehearse, type AlarmDefinition, type Rehearsal } from '$lib/core/alarm';
import { summarise } from '$lib/core/series';
import type { Signal } from '$lib/core/signal';
import { before, day, range, type Duration, type Instant } from '$lib/core/time';
import { PanelData } from '../board/data/panel-data.svelte';
import { pictureOf } from '../board/panel/picture-of';

/** What a signal did in the last day, and what an alarm on it would have done. */
export class LastDay {
  readonly #data = new PanelData();
  readonly #alarm: () => AlarmDefinition;

  constructor(alarm: () => AlarmDefinition) {
    this.#alarm = alarm;
  }

  /** Requests the day up to now. It is requested when the signal changes, not when the threshold does: the replay runs here. */
  read(signal: Signal, now: Instant): void {
    void this.#data.ask(signal, range(before(now, day), now), 1500);
  }

  stop(): void {
    this.#data.stop();
  }

  get answer() {
    return this.#data.answer;
  }

  get problem() {
    return this.#data.problem;
  }

  readonly picture = $derived.by(() => {
    const { answer, range: span } = this.#data;
    return answer && span ? pictureOf(answer, span, this.#alarm().signal.digits) : null;
  });

  /** What the alarm would have done; null while that cannot be known. */
  readonly rehearsal = $derived.by((): Rehearsal | null => {
    const { answer } = this.#data;
    const { rule } = this.#alarm();
    const { condition, window } = rule;
    if (
      answer === null ||
      this.picture === null ||
      !Number.isFinite(condition.threshold) ||
      !(window.needs >= 1 && window.needs <= window.of)
    )
      return null;
    const columns = this.picture.lines.map(({ id, values, complete }) => ({
      seriesId: id,
      values: values.subarray(0, complete)
    }));
    return rehearse({ start: answer.start, step: answer.step as Duration, count: answer.count }, columns, rule);
  });

  /** The smallest and the largest value; null when there was none. */
  readonly seen = $derived.by(() => {
    const figures = (this.picture?.lines ?? []).map(({ values, complete }) => summarise(values.subarray(0, complete)));
    const known = figures.filter(({ max }) => !Number.isNaN(max));
    if (known.length === 0) return null;
    return { smallest: Math.min(...known.map(({ min }) => min)), largest: Math.max(...known.map(({ max }) => max)) };
  });
}
