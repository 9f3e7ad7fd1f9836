import type { Statistic } from '../series';
import { isPick, mostRows, shownRows, steadySignalSchema, type SignalPick, type Row, type Signal } from './schema';

/** The statistic that suits a metric of a kind at first. @example usualStatistic('cumulative') // 'rate' */
export const usualStatistic = (kind: string): Statistic =>
  kind === 'cumulative' ? 'rate' : kind === 'delta' ? 'sum' : 'avg';

/** A name that no row has yet: a letter, then letters with numbers. @example freeName([]) // 'a' */
export function freeName(rows: readonly Row[]): string {
  for (let i = 0; ; i++) {
    const name = String.fromCharCode(97 + (i % 26)) + (i < 26 ? '' : String(Math.floor(i / 26)));
    if (!rows.some((row) => row.name === name)) return name;
  }
}

/** A signal with a row more, which is shown; the same when it is full. */
export function withRow(signal: Signal, row: Row): Signal {
  if (signal.rows.length >= mostRows) return signal;
  const { show: _, ...rest } = signal;
  return { ...rest, rows: [...signal.rows, row] };
}

/**
 * A signal without a row. Its formulas may still name it: that is said where they are computed. The last row cannot be removed.
 *
 * @example withoutRow(signal, 'b').rows.length
 */
export function withoutRow(signal: Signal, name: string): Signal {
  if (signal.rows.length === 1) return signal;
  const { show: _, ...rest } = signal;
  const show = shownRows(signal).filter((shown) => shown !== name);
  return { ...rest, rows: signal.rows.filter((row) => row.name !== name), ...(show.length > 0 ? { show } : {}) };
}

/** A signal with another row in a row's place; under another name it keeps its place among those shown. */
export function replaceRow(signal: Signal, name: string, row: Row): Signal {
  const { show, ...rest } = signal;
  return {
    ...rest,
    rows: signal.rows.map((one) => (one.name === name ? row : one)),
    ...(show ? { show: show.map((shown) => (shown === name ? row.name : shown)) } : {})
  };
}

/** A pick with some of it changed; undefined takes its combination away. */
export function changePick(
  pick: SignalPick,
  change: Partial<Omit<SignalPick, 'combine'>> & { combine?: SignalPick['combine'] }
): SignalPick {
  const { combine, ...changed } = { ...pick, ...change };
  return combine ? { ...changed, combine } : changed;
}

/** A signal that shows a row besides, or no longer; one is always shown. @example toggleShown(signal, 'a') */
export function toggleShown(signal: Signal, name: string): Signal {
  const shown = shownRows(signal);
  const next = shown.includes(name) ? shown.filter((one) => one !== name) : [...shown, name];
  return next.length === 0
    ? signal
    : { ...signal, show: signal.rows.map((row) => row.name).filter((one) => next.includes(one)) };
}

/**
 * The signal that an alarm can watch of what the bench shows: cells of the length that were computed, and every series.
 *
 * @param step ISO 8601 length of the cells that were computed
 * @returns null when it shows several rows, or its cells are longer than half a day
 * @example steady({ ...signal, step: 'auto' }, 'PT1M')?.step // 'PT1M'
 */
export function steady(signal: Signal, step: string): Signal | null {
  const { limit: _, ...whole } = signal;
  return steadySignalSchema.safeParse({ ...whole, step: signal.step === 'auto' ? step : signal.step }).data ?? null;
}

/** The picks of a signal by their row's name. @example pickNamed(signal, 'a')?.metric */
export const pickNamed = (signal: Signal, name: string): SignalPick | undefined =>
  signal.rows.filter(isPick).find((row) => row.name === name);
