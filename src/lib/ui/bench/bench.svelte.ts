import {
  freeName,
  isPick,
  replaceRow,
  usualStatistic,
  withoutRow,
  withRow,
  type LinesRow,
  type SignalPick,
  type Row,
  type Signal
} from '$lib/core/signal';

/** The signal on the bench, and what it was before: every change can be undone. */
export class Bench {
  signal = $state.raw<Signal | null>(null);
  #past = $state.raw<readonly (Signal | null)[]>([]);
  readonly #onChange: (signal: Signal | null) => void;

  constructor(begin: Signal | null, onChange: (signal: Signal | null) => void) {
    this.signal = begin;
    this.#onChange = onChange;
  }

  get mayUndo(): boolean {
    return this.#past.length > 0;
  }

  set(signal: Signal | null): void {
    this.#past = [...this.#past.slice(-99), this.signal];
    this.signal = signal;
    this.#onChange(signal);
  }

  undo(): void {
    const last = this.#past.at(-1);
    if (last === undefined) return;
    this.#past = this.#past.slice(0, -1);
    this.signal = last;
    this.#onChange(last);
  }

  /** Puts a metric on the bench: as a row more, or in the place of the last row that picks. */
  use({ name: metric, kind }: { readonly name: string; readonly kind: string }, how: 'add' | 'replace'): void {
    const { signal } = this;
    const last = signal?.rows.filter(isPick).at(-1);
    if (signal && last && how === 'replace')
      return this.set(
        replaceRow(signal, last.name, { name: last.name, metric, where: [], statistic: usualStatistic(kind) })
      );
    const row: SignalPick = { name: freeName(signal?.rows ?? []), metric, where: [], statistic: usualStatistic(kind) };
    this.set(signal === null ? { version: 2, step: 'PT1M', rows: [row] } : withRow(signal, row));
  }

  /** Puts lines of logs on the bench, counted, as a row more. */
  addLines(lines: string): void {
    const { signal } = this;
    const row: LinesRow = { name: freeName(signal?.rows ?? []), lines, where: [], by: [] };
    this.set(signal === null ? { version: 2, step: 'auto', rows: [row] } : withRow(signal, row));
  }

  addFormula(): void {
    const { signal } = this;
    if (signal === null) return;
    const names = signal.rows.map(({ name }) => name);
    this.set(withRow(signal, { name: freeName(signal.rows), formula: names.slice(-2).join(' / ') }));
  }

  change(name: string, row: Row): void {
    if (this.signal) this.set(replaceRow(this.signal, name, row));
  }

  remove(name: string): void {
    if (this.signal) this.set(this.signal.rows.length === 1 ? null : withoutRow(this.signal, name));
  }
}
