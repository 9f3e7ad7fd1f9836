import { beyondAt, cellCode, codesOf, writeCodes, type Comparison } from './condition';
import type { Rule } from './schema';
import type { Severity } from './severity';

/** The state of one series of an alarm. */
export type State = 'clear' | 'raised' | 'indeterminate';

/** The state of a series, and the severity of its incident: null when it has none. */
export interface Standing {
  readonly state: State;
  readonly severity: Severity | null;
}

/** A value and how far it lay beyond its bounds. */
export interface Peak {
  readonly value: number;
  readonly beyond: number;
}

/** What is remembered of one level of one series between cells. */
export interface LevelMemory {
  readonly state: State;
  /** Raised, and not clear since: an incident lasts through what is indeterminate. */
  readonly held: boolean;
  /** The codes of the last cells, oldest first; as many as the longer window looks at, fewer at the beginning. */
  readonly recent: Uint8Array;
  /** The worst value since the window last had no cell that met the condition. */
  readonly peak: Peak | null;
}

/** What is remembered of one series between cells: with it, judging can go on at any cell. */
export interface SeriesMemory {
  readonly levels: readonly LevelMemory[];
}

/** What the window of the deciding cell counted. */
export interface WindowCounts {
  readonly met: number;
  readonly missing: number;
  readonly well: number;
}

/** A change of a series' standing, decided when the cell at `index` was complete. */
export interface Transition extends WindowCounts {
  readonly index: number;
  readonly from: Standing;
  readonly to: Standing;
  /** The position of the level that decided, its peak so far, and the codes of the cells that its windows looked at. */
  readonly level: number;
  readonly peak: Peak | null;
  readonly codes: Uint8Array;
}

/** What a series is before its first cell. */
export const noMemory = ({ levels }: Pick<Rule, 'levels'>): SeriesMemory => ({
  levels: levels.map(freshLevel)
});
function freshLevel(): LevelMemory {
  return { state: 'indeterminate', held: false, recent: new Uint8Array(0), peak: null };
}

/** How many cells the windows of a rule look at. */
export const windowCells = ({ window, clearing }: Pick<Rule, 'window' | 'clearing'>): number =>
  Math.max(window.of, clearing?.of ?? 0);

/**
 * The standing of a series: raised when a level is; indeterminate when none is raised and one cannot be told. Its severity is that of the gravest level that holds.
 *
 *     level       not held                    held
 *     raised      (becomes held)              raised
 *     clear       clear                       (no longer held)
 *     cannot      indeterminate, or as it     indeterminate, or as it was; the incident
 *     tell        was, see whenMissing        stays open
 */
export function standingOf(
  { levels }: { readonly levels: readonly Pick<LevelMemory, 'state' | 'held'>[] },
  rule: Pick<Rule, 'levels'>
): Standing {
  let state: State = 'clear';
  let severity: Severity | null = null;
  for (let position = 0; position < levels.length; position++) {
    const level = levels[position] as Pick<LevelMemory, 'state' | 'held'>;
    if (level.state === 'raised') state = 'raised';
    else if (level.state === 'indeterminate' && state === 'clear') state = 'indeterminate';
    if (level.held) severity = rule.levels[position]?.severity ?? null;
  }
  return { state, severity };
}

/**
 * Judges the cells [from, to) of one series, each as if it had just been completed. The engine and the rehearsal both call this, so what a rehearsal shows is what the engine does: the result does not depend
 * on how the cells are divided among calls. Cost: cells, however long the windows are.
 *
 * With K needed of the last N: raised when K cells meet the condition; clear when K cannot be reached even if every missing cell met it; else nobody can tell, and `whenMissing` decides. While it is held, cells
 * that are not well count as those that meet; where the rule has a clearing window, it clears when so many of its cells are well, and the window does not say that it is raised. Cells before the first are missing.
 *
 * @param comparisons one for each level of the rule
 * @example judgeSeries(rule2of2, noMemory(rule2of2), [comparison], 0, 3).transitions.map(({ index, to }) => [index, to.state])
 * // [[2, 'raised']]
 */
export function judgeSeries(
  rule: Rule,
  memory: SeriesMemory,
  comparisons: readonly Comparison[],
  from: number,
  to: number
): { readonly memory: SeriesMemory; readonly transitions: Transition[] } {
  const levels = rule.levels.map((_, position) => {
    const known = memory.levels[position] ?? freshLevel();
    return new LevelJudge(rule, known, comparisons[position] as Comparison, from, to);
  });
  const transitions: Transition[] = [];
  let standing = standingOf({ levels }, rule);
  for (let index = from; index < to; index++) {
    let changed = -1;
    for (let position = 0; position < levels.length; position++)
      if ((levels[position] as LevelJudge).next()) changed = position;
    if (changed === -1) continue;
    const next = standingOf({ levels }, rule);
    if (next.state === standing.state && next.severity === standing.severity) continue;
    const { met, missing, well, peak, codes } = levels[changed] as LevelJudge;
    transitions.push({ index, from: standing, to: next, level: changed, met, missing, well, peak, codes });
    standing = next;
  }
  return { memory: { levels: levels.map((level) => level.memory()) }, transitions };
}

/**
 * The memory of a series that is to be judged from a cell on, whose windows look at the cells before it: of one that is new, whose rule was changed, or whose cells were not judged for a while.
 *
 * @param levels as they were; null for one that begins anew
 */
export function warmed(
  rule: Rule,
  comparisons: readonly Comparison[],
  from: number,
  levels: readonly (LevelMemory | null)[] = []
): SeriesMemory {
  const first = Math.max(0, from - windowCells(rule));
  return {
    levels: rule.levels.map((_, position) => {
      const comparison = comparisons[position] as Comparison;
      const recent = counted(codesOf(comparison, first, from), rule.whenMissing);
      const before = levels[position] ?? null;
      return {
        state: before?.state ?? 'indeterminate',
        held: before?.held ?? false,
        recent,
        peak: before?.peak ?? peakOf(comparison, recent.subarray(Math.max(0, recent.length - rule.window.of)), from)
      };
    })
  };
}

/** The worst value of cells that end before an index, when any of them meets the condition. */
function peakOf(comparison: Comparison, codes: Uint8Array, end: number): Peak | null {
  if (!codes.includes(cellCode.met)) return null;
  let peak: Peak | null = null;
  for (let i = 0; i < codes.length; i++) {
    if (codes[i] === cellCode.missing) continue;
    const index = end - codes.length + i;
    const beyond = beyondAt(comparison, index);
    if (beyond > (peak?.beyond ?? -Infinity)) peak = { value: comparison.subject[index] as number, beyond };
  }
  return peak;
}

/** A code as it counts: where missing cells count as others, it is that. @example countedAs(cellCode.missing, 'meets') // cellCode.met */
export function countedAs(code: number, whenMissing: Rule['whenMissing']): number {
  if (code !== cellCode.missing) return code;
  return whenMissing === 'meets' ? cellCode.met : whenMissing === 'does not meet' ? cellCode.well : code;
}

/** Whether missing cells count as others. */
const countsMissing = (whenMissing: Rule['whenMissing']): boolean =>
  whenMissing === 'meets' || whenMissing === 'does not meet';

const counted = (codes: Uint8Array, whenMissing: Rule['whenMissing']): Uint8Array =>
  countsMissing(whenMissing) ? codes.map((code) => countedAs(code, whenMissing)) : codes;

/** One level of one series while cells are judged: counts slide along with the windows. */
class LevelJudge {
  state: State;
  held: boolean;
  peak: Peak | null;
  met = 0;
  missing = 0;
  well = 0;
  #between = 0;
  /** Of the clearing window. */
  #clearWell = 0;
  #clearMissing = 0;
  readonly #rule: Rule;
  readonly #codes: Uint8Array;
  readonly #comparison: Comparison;
  readonly #keep: number;
  /** Where the next cell lies in the codes, and in the comparison less that. */
  #place: number;
  readonly #shift: number;

  constructor(
    rule: Rule,
    { state, held, recent, peak }: LevelMemory,
    comparison: Comparison,
    from: number,
    to: number
  ) {
    this.#rule = rule;
    this.#keep = windowCells(rule);
    this.state = state;
    this.held = held;
    this.peak = peak;
    // Cells before the first are missing, and stand before those that are remembered.
    const known = Math.min(recent.length, this.#keep);
    this.#codes = new Uint8Array(this.#keep + Math.max(0, to - from));
    this.#codes.fill(cellCode.missing, 0, this.#keep - known);
    for (let i = 0; i < known; i++) this.#codes[this.#keep - known + i] = recent[recent.length - known + i] as number;
    writeCodes(comparison, from, to, this.#codes, this.#keep);
    if (countsMissing(rule.whenMissing))
      for (let i = this.#keep; i < this.#codes.length; i++)
        this.#codes[i] = countedAs(this.#codes[i] as number, rule.whenMissing);
    this.#place = this.#keep;
    this.#shift = from - this.#keep;
    this.#comparison = comparison;
    for (let i = this.#keep - rule.window.of; i < this.#keep; i++) this.#count(this.#codes[i] as number, 1);
    if (rule.clearing)
      for (let i = this.#keep - rule.clearing.of; i < this.#keep; i++) this.#countClearing(this.#codes[i] as number, 1);
  }

  /** Judges one more cell. @returns whether the level changed */
  next(): boolean {
    const { window, clearing } = this.#rule;
    const place = this.#place++;
    const code = this.#codes[place] as number;
    this.#count(this.#codes[place - window.of] as number, -1);
    this.#count(code, 1);
    if (clearing) {
      this.#countClearing(this.#codes[place - clearing.of] as number, -1);
      this.#countClearing(code, 1);
    }
    this.#notePeak(code, place + this.#shift);
    const verdict = this.#verdict();
    const state =
      verdict === 'cannot tell' ? (this.#rule.whenMissing === 'keep' ? this.state : 'indeterminate') : verdict;
    const held = verdict === 'raised' || (this.held && verdict !== 'clear');
    const changed = state !== this.state || held !== this.held;
    this.state = state;
    this.held = held;
    return changed;
  }

  /** The codes of the cells that the windows look at now. */
  get codes(): Uint8Array {
    return this.#codes.slice(this.#place - this.#keep, this.#place);
  }

  memory(): LevelMemory {
    // What was never seen is not remembered: it stands for the cells before the first.
    let first = this.#place - this.#keep;
    while (first < this.#place && this.#codes[first] === cellCode.missing) first++;
    const recent = this.#codes.slice(first, this.#place);
    return { state: this.state, held: this.held, recent, peak: this.peak };
  }

  #verdict(): State | 'cannot tell' {
    const { window, clearing } = this.#rule;
    if (this.met >= window.needs) return 'raised';
    if (!this.held) return this.met + this.missing < window.needs ? 'clear' : 'cannot tell';
    if (clearing) {
      if (this.#clearWell >= clearing.needs) return 'clear';
      return this.#clearWell + this.#clearMissing < clearing.needs ? 'raised' : 'cannot tell';
    }
    const still = this.met + this.#between;
    if (still >= window.needs) return 'raised';
    return still + this.missing < window.needs ? 'clear' : 'cannot tell';
  }

  #notePeak(code: number, index: number): void {
    if (this.met === 0 && !this.held) {
      this.peak = null;
      return;
    }
    if (code === cellCode.missing) return;
    const beyond = beyondAt(this.#comparison, index);
    if (!(beyond > (this.peak?.beyond ?? -Infinity))) return;
    this.peak = { value: this.#comparison.subject[index] as number, beyond };
  }

  #count(code: number, by: 1 | -1): void {
    if (code === cellCode.met) this.met += by;
    else if (code === cellCode.missing) this.missing += by;
    else if (code === cellCode.well) this.well += by;
    else this.#between += by;
  }

  #countClearing(code: number, by: 1 | -1): void {
    if (code === cellCode.well) this.#clearWell += by;
    else if (code === cellCode.missing) this.#clearMissing += by;
  }
}
