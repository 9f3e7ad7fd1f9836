import { z } from 'zod';
import type { Duration } from '../../time';
import { absenceKind, absenceSchema } from './absence';
import { bandKind, bandSchema } from './band';
import { combinedKind, combinedSchema } from './combined';
import { changeKind, changeSchema } from './change';
import type { Comparison, ConditionData } from './comparison';
import { forecastKind, forecastSchema } from './forecast';
import type { ConditionKind, ConditionWords, Needs } from './kind';
import { rankKind, rankSchema } from './rank';
import { thresholdKind, thresholdSchema } from './threshold';

/** A condition on the cells of a signal, of any kind. */
export const conditionSchema = z.discriminatedUnion(
  'kind',
  [thresholdSchema, bandSchema, changeSchema, absenceSchema, rankSchema, forecastSchema, combinedSchema],
  { error: 'Give a condition: its kind is threshold, band, change, absence, rank, forecast or combined.' }
);
export type Condition = z.infer<typeof conditionSchema>;
export type ConditionName = Condition['kind'];

const kinds: { readonly [Name in ConditionName]: ConditionKind<Extract<Condition, { kind: Name }>> } = {
  threshold: thresholdKind,
  band: bandKind,
  change: changeKind,
  absence: absenceKind,
  rank: rankKind,
  forecast: forecastKind,
  combined: combinedKind
};
const kindOf = ({ kind }: Condition) => kinds[kind] as ConditionKind<Condition>;

/** What a condition must be given besides the cells that are judged. */
export const conditionNeeds = (condition: Condition, step: Duration): Needs => kindOf(condition).needs(condition, step);

/** What a condition compares with what, for each series of the data. */
export const compareWith = (condition: Condition, data: ConditionData): Comparison[] =>
  kindOf(condition).compare(condition, data);

/** A condition in words. @example conditionText({ kind: 'threshold', is: 'above', limit: 80 }, words) // 'is above 80 %' */
export const conditionText = (condition: Condition, words: ConditionWords): string =>
  kindOf(condition).sentence(condition, words);

export {
  beyondAt,
  boundAt,
  cellCode,
  codesOf,
  writeCodes,
  type Bound,
  type Cells,
  type Comparison,
  type ConditionData
} from './comparison';
export type { ConditionWords, Needs } from './kind';
export { usualWidths, type Band } from './band';
export { leastPeers, type Rank } from './rank';
export type { Combined } from './combined';
export { type Absence } from './absence';
export { type Change as ChangeCondition } from './change';
export { type Forecast } from './forecast';
export { type Threshold, type ThresholdException } from './threshold';
export { timesOfCells, timesSchema, timesText, zoneOffsets, type Times } from './times';
