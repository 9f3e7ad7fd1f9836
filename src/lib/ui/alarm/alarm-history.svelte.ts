import { mostDrawnBands, otherLimits, ruleSchema, type AlarmDefinition, type RehearsalAnswer } from '$lib/core/alarm';
import type { Signal } from '$lib/core/signal';
import { before, day, range, times, type Duration, type Instant } from '$lib/core/time';
import { callApi } from '../api';
import { areasOf, BandData } from '../board/data/band-data.svelte';
import { PanelData } from '../board/data/panel-data.svelte';
import { pictureOf } from '../board/panel/picture-of';

/** Days of history that an alarm is replayed over, as people choose among them. */
export const historyDays = [1, 3, 7, 14, 30] as const;
/** Cells that a picture has room for. */
const drawnCells = 1500;
/** What is typed is replayed when it has rested for so long, ms. */
const restsFor = 250;

/** What a signal did over some days of history, and what an alarm on it would have done. */
export class AlarmHistory {
  days = $state<number>(14);
  /** The newest answer; what was answered stays until the next is there. */
  rehearsal = $state.raw<RehearsalAnswer | null>(null);
  rehearsalProblem = $state<string | null>(null);
  /** Whether what is shown is of an alarm that has been changed since. */
  isStale = $state(false);
  readonly #data = new PanelData();
  readonly #alarm: () => AlarmDefinition;
  #asking: AbortController | null = null;
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(alarm: () => AlarmDefinition) {
    this.#alarm = alarm;
  }

  /** Requests the days up to now, to be drawn. */
  read(signal: Signal, now: Instant): void {
    void this.#data.ask(signal, range(before(now, times(this.days, day)), now), drawnCells);
  }

  /** While something is dragged, each answer is followed by the question for where it is then. */
  #hurries = false;
  #wanted: (() => Promise<void>) | null = null;
  /** What was to be replayed last. */
  #last: Parameters<AlarmHistory['rehearse']> | null = null;

  /** Something is being dragged. */
  hurry(): void {
    this.#hurries = true;
  }

  /** It was let go: what is there now is replayed in full. */
  release(): void {
    this.#hurries = false;
    if (this.#last) this.rehearse(...this.#last);
  }

  /** Has the server replay the alarm as it is now, once it has rested; nothing while it is not whole. */
  rehearse(alarm: AlarmDefinition, id: number | null, zone: string): void {
    this.#last = [alarm, id, zone];
    clearTimeout(this.#timer);
    if (!this.#hurries) this.#asking?.abort();
    this.isStale = true;
    this.#wanted = null;
    if (!ruleSchema.safeParse(alarm.rule).success) return;
    const hurries = this.#hurries;
    this.#wanted = () => this.#replay(alarm, id, zone, !hurries);
    if (!hurries) this.#timer = setTimeout(() => this.#next(), restsFor);
    else if (this.#asking === null) this.#next();
  }

  #next(): void {
    const wanted = this.#wanted;
    this.#wanted = null;
    void wanted?.();
  }

  async #replay(alarm: AlarmDefinition, id: number | null, zone: string, propose: boolean): Promise<void> {
    const asking = (this.#asking = new AbortController());
    // A name is needed to save an alarm, not to replay it.
    const body = { alarm: { ...alarm, name: alarm.name.trim() || 'Alarm' }, days: this.days, zone, id, propose };
    const reply = await callApi<RehearsalAnswer>('POST', '/rehearse', { body, signal: asking.signal });
    if (this.#asking === asking) this.#asking = null;
    if (reply.kind === 'cancelled' || asking.signal.aborted) return;
    this.isStale = this.#wanted !== null;
    this.rehearsalProblem = reply.kind === 'refused' ? `${reply.problem.message} ${reply.problem.remedy}`.trim() : null;
    if (reply.kind === 'answered') this.rehearsal = reply.answer;
    if (this.#hurries) this.#next();
  }

  stop(): void {
    clearTimeout(this.#timer);
    this.#asking?.abort();
    this.#data.stop();
    this.#bands.clear();
  }

  get answer() {
    return this.#data.answer;
  }

  get problem() {
    return this.#data.problem ?? this.rehearsalProblem;
  }

  readonly #bands = new BandData();

  /** Requests the anomaly bands that a condition compares with, to be drawn; of one that does not, nothing. */
  readBands(): void {
    const { signal, rule } = this.#alarm();
    const condition = rule.levels.map((level) => level.condition).find(({ kind }) => kind === 'band');
    const { answer, range: span } = this.#data;
    const isDrawn = answer !== null && answer.series.length <= mostDrawnBands;
    if (!signal || condition?.kind !== 'band' || !isDrawn || span === null) this.#bands.clear();
    else void this.#bands.ask(signal, span, answer.step, condition.widths);
  }

  readonly picture = $derived.by(() => {
    const { answer, range: span } = this.#data;
    if (!answer || !span) return null;
    const drawn = pictureOf(answer, span, this.#alarm().signal?.digits);
    const labelled = drawn.lines.map(({ id, hue }) => ({
      hue,
      labels: answer.series.find((one) => one.id === id)?.labels ?? {}
    }));
    const { start, step, count } = answer;
    const grid = { start: start, step: step as Duration, count };
    return {
      ...drawn,
      bands: areasOf(this.#bands.answer, labelled),
      otherLimits: otherLimits(this.#alarm().rule, grid)
    };
  });
}
