/** One measurement, as it is printed. */
export interface Measurement {
  readonly name: string;
  readonly unit: string;
  readonly better: 'higher' | 'lower';
  readonly ours: number;
  readonly theirs: number;
  /** What `theirs` measured, on the same work in the same run. */
  readonly alternative: string;
  readonly note: string;
  /** Further figures, printed as fields of their own. */
  readonly more?: Readonly<Record<string, number>>;
}

/**
 * The printed line: figures to four digits, and their ratio, above 1 when ours is better.
 *
 * @throws when something that is no number was measured
 * @example lineOf({ name: 'x', unit: 's', better: 'lower', ours: 1, theirs: 2, … }) // '{…,"ratio":2,…}'
 */
export function lineOf({ name, unit, better, ours, theirs, alternative, note, more = {} }: Measurement): string {
  if (!Number.isFinite(ours) || !Number.isFinite(theirs)) throw new Error(`${name} was not measured.`);
  const short = (value: number) => Number(value.toPrecision(4));
  const ratio = better === 'higher' ? ours / theirs : theirs / ours;
  return JSON.stringify({
    name,
    unit,
    better,
    ours: short(ours),
    theirs: short(theirs),
    alternative,
    ratio: short(ratio),
    ...Object.fromEntries(Object.entries(more).map(([key, value]) => [key, short(value)])),
    note
  });
}

/** The middle of several runs' seconds, the two ways taken in turn so that a slow moment of the machine hits both. */
export async function inTurn(
  rounds: number,
  ours: () => unknown,
  theirs: () => unknown
): Promise<{ ours: number; theirs: number }> {
  const seconds = { ours: [] as number[], theirs: [] as number[] };
  for (let round = 0; round < rounds; round++) {
    seconds.ours.push(await secondsOf(ours));
    seconds.theirs.push(await secondsOf(theirs));
  }
  return { ours: middleOf(seconds.ours), theirs: middleOf(seconds.theirs) };
}

/** The middle of some figures. @example middleOf([3, 1, 2]) // 2 */
export const middleOf = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;

async function secondsOf(work: () => unknown): Promise<number> {
  globalThis.gc?.();
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}

/** A page in which something failed has not done the work that is measured. @throws Error with what it said */
export function refuseErrors(errors: readonly string[]): void {
  if (errors.length > 0) throw new Error(`The page failed: ${errors.join('; ')}`);
}
