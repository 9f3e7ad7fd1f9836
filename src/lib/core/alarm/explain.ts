import { formOf } from '../words/count';
import { spokenDuration, type Duration, type Instant } from '../time';
import type { Labels } from '../signal';
import { cellCode } from './condition';
import { conditionIn } from './sentence';
import type { Level, Rule } from './schema';

/** What one level of an alarm saw in the cells that its windows looked at. */
export interface ExplainedLevel {
  readonly level: Level;
  /** What was compared, oldest first; null is a gap. */
  readonly values: readonly (number | null)[];
  /** The bounds then in force; null for none. */
  readonly low: readonly (number | null)[];
  readonly high: readonly (number | null)[];
  /** What each cell said, see `cellCode`, a digit each. */
  readonly codes: string;
}

/** What an alarm saw of one series when the last window before a moment was complete. */
export interface Explanation {
  /** The end of that window. */
  readonly until: Instant;
  readonly step: Duration;
  /** UCUM code. */
  readonly unit: string;
  readonly labels: Labels;
  readonly levels: readonly ExplainedLevel[];
}

/**
 * Why a level was raised, or was not, in sentences.
 *
 * @param codes of the last cells, as many as the longer window looks at
 * @param wasRaised whether it was raised before
 * @example explainLevel(rule, { level, codes: '33311' }, minute, '%', false)
 * // ['It is above 80 % in 2 of the last 5 windows of 1 minute; 3 are needed.']
 */
export function explainLevel(
  rule: Rule,
  { level, codes }: Pick<ExplainedLevel, 'level' | 'codes'>,
  step: Duration,
  unit: string,
  wasRaised: boolean
): string[] {
  const { window, clearing, whenMissing } = rule;
  const { needs, of } = window;
  const { met, missing, between } = countedIn(codes, of);
  const says = [
    `It ${conditionIn(level.condition, unit)} ${metText(met, of, step)}; ${needs} ${formOf(needs, 'is', 'are')} needed.`
  ];
  if (met >= needs) return says;
  if (missing > 0) {
    const have = `${missing} ${formOf(missing, 'window has', 'windows have')} no data`;
    if (met + missing < needs) says.push(`${have}; even with ${formOf(missing, 'it', 'them')} it would not be enough.`);
    else says.push(`${have} and ${missingText[whenMissing]}`);
  }
  if (!wasRaised) return says;
  if (between > 0)
    says.push(
      `${between} ${formOf(between, 'is', 'are')} not well enough to clear: once raised, ${formOf(between, 'it counts', 'they count')} as meeting it.`
    );
  if (clearing) {
    const well = countedIn(codes, clearing.of).well;
    says.push(
      `It clears when ${clearing.needs} of the last ${clearing.of} are well; ${well} ${formOf(well, 'is', 'are')}.`
    );
  }
  return says;
}

const missingText: Readonly<Record<Rule['whenMissing'], string>> = {
  indeterminate: 'could decide it: nobody can tell.',
  keep: 'could decide it: it stays as it was.',
  meets: 'count as meeting it.',
  'does not meet': 'count as not meeting it.'
};

/** How many of the last cells say what; those before the first are missing. */
function countedIn(codes: string, of: number) {
  const cells = codes.slice(-of);
  const count = (code: number) => [...cells].filter((one) => one === String(code)).length;
  return {
    met: count(cellCode.met),
    missing: count(cellCode.missing) + of - cells.length,
    between: count(cellCode.between),
    well: count(cellCode.well)
  };
}

function metText(met: number, of: number, step: Duration): string {
  if (of === 1) return met === 1 ? 'in the last window' : 'in no window';
  return `in ${met} of the last ${of} windows of ${spokenDuration(step)}`;
}
